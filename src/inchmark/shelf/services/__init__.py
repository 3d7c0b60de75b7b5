"""Verbs on the shelf: parts, rigs, sweeps, bench checks."""

from inchmark.shelf.services import bench, conducted, parts, rigs, sweeps

__all__ = ["bench", "conducted", "parts", "rigs", "sweeps"]
