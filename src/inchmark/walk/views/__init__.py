"""Pages of the walk."""
