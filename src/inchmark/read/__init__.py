"""Room 4: what the log says."""
