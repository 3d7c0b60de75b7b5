"""Geometry of the pictures of Read, one a file."""
