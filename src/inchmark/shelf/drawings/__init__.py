"""Geometry of the shelf's pictures, one a file."""
