"""The shelf as the core knows it: parts, settings, rigs, sweeps, bench checks."""

from inchmark.shelf.records import (
    centring,
    close_range,
    conducted,
    console,
    ends,
    limits,
    lists,
    parts,
    rigs,
    settings,
    sweeps,
    traces,
)

__all__ = [
    "centring",
    "close_range",
    "conducted",
    "console",
    "ends",
    "limits",
    "lists",
    "parts",
    "rigs",
    "settings",
    "sweeps",
    "traces",
]
