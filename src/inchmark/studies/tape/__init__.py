"""The tape across every page of a study: what stands on it, its scale, and how it is laid out."""
