"""Rows of the shelf to the core's objects and back."""
