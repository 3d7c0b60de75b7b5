"""The shelf as the core knows it: rigs, sweeps, conducted ladders."""

from inchmark.shelf.records import conducted, rigs, sweeps

__all__ = ["conducted", "rigs", "sweeps"]
