"""A study in one zip: written with a manifest, opened with suspicion."""
