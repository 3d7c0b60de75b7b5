"""The shelf as the core knows it: rigs, sweeps."""

from inchmark.shelf.records import rigs, sweeps

__all__ = ["rigs", "sweeps"]
