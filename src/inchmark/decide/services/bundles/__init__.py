"""A study carried from one installation to another, and what of it is carried."""
