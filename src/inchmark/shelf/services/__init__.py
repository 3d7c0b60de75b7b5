"""Verbs on the shelf: rigs, sweeps, conducted ladders."""

from inchmark.shelf.services import conducted, rigs, sweeps

__all__ = ["conducted", "rigs", "sweeps"]
