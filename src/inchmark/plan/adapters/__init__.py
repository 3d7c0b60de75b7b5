"""Rows of the plan to the core's objects and back."""
