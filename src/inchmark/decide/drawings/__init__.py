"""Geometry of the pictures of Decide, one a file."""
