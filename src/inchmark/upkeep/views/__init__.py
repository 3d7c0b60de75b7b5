"""Pages for monitors, and of the work done for a study."""
