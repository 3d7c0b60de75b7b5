"""Verbs on the shelf: rigs, sweeps."""

from inchmark.shelf.services import rigs, sweeps

__all__ = ["rigs", "sweeps"]
