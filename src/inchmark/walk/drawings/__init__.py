"""Drawings of the walk: the strip of time, and the strip of a visit."""
