"""Rows of the walk as the core knows them: visits with their frames, logs with their recipes."""
