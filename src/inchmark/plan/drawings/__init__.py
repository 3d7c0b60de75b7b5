"""Geometry of the plan's pictures, one a file."""
