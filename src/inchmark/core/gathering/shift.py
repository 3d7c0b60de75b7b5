"""How far the clock of a log is from that of a track, from levels that should fall with distance."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.gathering.way import Way

MOST_S, STEP_S = 900.0, 5.0  # how far clocks are looked for apart, and how finely
LEAST_FRAMES = 60
LEAST_SHARE = 0.6  # of the frames must lie on the track at a shift for it to be looked at
LEAST_DECADES = 0.2  # of distance; without change of distance levels tell nothing of time
# frames in a row fade together and share their places' shadows, so that so many tell as much as one
ALIKE = 20.0
CHI2_95 = 3.84  # of one degree of freedom


class ClockShift(NamedTuple):
    """Seconds to add to the log's times, with the 95 % limits, and by how much the
    levels fit better than unshifted [dB]; None where unshifted they lie off the track.
    """

    estimate_s: float
    low_s: float
    high_s: float
    better_db: float | None


def clock_shift(time_s: Floats, rssi_dbm: Floats, way: Way) -> ClockShift | None:
    """Return the shift at which levels fit a slope over distance best; None where they tell nothing.

    Levels of all frames, shape (frames,), of one rig. The spread about the slope is least when frames
    lie where they were heard; the limits are those of a likelihood in which `ALIKE` frames count once.
    """
    times, levels = np.asarray(time_s, float), np.asarray(rssi_dbm, float)
    known = np.isfinite(times) & np.isfinite(levels)
    times, levels = times[known], levels[known]
    if times.size < LEAST_FRAMES:
        return None
    shifts = np.arange(-MOST_S, MOST_S + STEP_S / 2, STEP_S)
    spread = np.array([_spread(times + shift, levels, way) for shift in shifts])
    if not np.any(np.isfinite(spread)):
        return None
    best = int(np.nanargmin(spread))
    worse = (times.size / ALIKE) * np.log(spread**2 / spread[best] ** 2)
    inside = shifts[np.nan_to_num(worse, nan=np.inf) <= CHI2_95]
    now = spread[shifts.size // 2]
    return ClockShift(
        float(shifts[best]),
        float(inside.min()),
        float(inside.max()),
        float(now - spread[best]) if np.isfinite(now) else None,
    )


def _spread(times: Floats, levels: Floats, way: Way) -> float:
    """Return the spread of levels about their slope over distance [dB]; NaN where it cannot be told."""
    metres = way.metres_at(times)
    known = np.isfinite(metres) & (metres > 0)
    if known.mean() < LEAST_SHARE:
        return np.nan
    x, y = np.log10(metres[known]), levels[known]
    if np.ptp(x) < LEAST_DECADES:
        return np.nan
    x = x - x.mean()
    slope = float(x @ (y - y.mean())) / float(x @ x)
    if slope >= 0:  # levels that rise with distance are no fit
        return np.nan
    return float(np.std(y - y.mean() - slope * x))
