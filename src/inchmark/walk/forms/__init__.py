"""Forms of the walk."""
