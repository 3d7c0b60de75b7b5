"""Looking before the fit: the step of the readings, and where they clip."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from inchmark.core.link_model.data import FitVisit

CLIP_MIN_HEARD, CLIP_SHARE, CLIP_STEP_RATIO = 10, 0.25, 1.5


def reading_step_db(visits: Sequence[FitVisit]) -> float:
    """Return the rounding step of the readings [dB]: the smallest difference that recurs."""
    levels = sorted({level for v in visits for level, _ in v.summary.rssi_counts})
    steps = np.round(np.diff(levels), 3)
    steps = steps[steps > 0]
    if not len(steps):
        return 1.0
    return float(np.clip(np.median(np.sort(steps)[: max(len(steps) // 2, 1)]), 0.05, 6.0))


def clip_level_dbm(visits: Sequence[FitVisit], step_db: float) -> float | None:
    """Return the highest reading [dBm] if readings pile up on it, else None."""
    highest = max(
        (v.summary.rssi_counts[-1][0] for v in visits if v.summary.rssi_counts), default=None
    )
    if highest is None:
        return None
    for v in visits:
        counts, heard = dict(v.summary.rssi_counts), v.summary.heard_with_level
        at_top = counts.get(highest, 0)
        below = sum(n for level, n in counts.items() if abs(level - (highest - step_db)) < 0.01)
        if (
            heard >= CLIP_MIN_HEARD
            and at_top >= CLIP_SHARE * heard
            and at_top > CLIP_STEP_RATIO * below
        ):
            return highest
    return None
