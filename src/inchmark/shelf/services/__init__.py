"""Verbs on the shelf: parts, rigs, shelf_files, sweeps, bench checks."""

from inchmark.shelf.services import bench, conducted, parts, rigs, shelf_files, sweeps

__all__ = ["bench", "conducted", "parts", "rigs", "shelf_files", "sweeps"]
