"""Stored sweeps as the core knows them."""

from __future__ import annotations

import numpy as np

from inchmark.core.antenna import match as core
from inchmark.shelf.models import Sweep


def core_sweep(sweep: Sweep) -> core.Sweep:
    """Return the sweep as arrays."""
    points = np.array(sweep.points, dtype=np.float64).reshape(-1, 3)
    return core.Sweep(frequency_hz=points[:, 0], reflection=points[:, 1] + 1j * points[:, 2])


def match_at(sweep: Sweep, frequency_hz: float) -> core.Match | None:
    """Return the match at a frequency [Hz], None where the sweep does not reach it."""
    one = core_sweep(sweep)
    if not one.frequency_hz[0] <= frequency_hz <= one.frequency_hz[-1]:
        return None
    return one.match_at(frequency_hz)
