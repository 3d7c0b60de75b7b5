"""A change inside a visit: a stretch of frames when something else was going on.

With the noise of each frame it shows as noise; without, as a stretch that lost more than the rest.
The stretch is left out and the rest is kept, and the page says so.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats

NOISE, LOSS = "noise", "loss"
NOISE_STEP_DB, QUIET_SHARE = 5.0, 0.2  # over the visit's 20 % quantile
LEAST_SHARE, MOST_SHARE = 0.05, 0.7  # of the frames, to be a stretch and not the visit
GRID = 20  # windows end on twentieths of the visit
SHORTEST, LONGEST = 4, 16  # a fifth to four fifths of it
CUT_ABOVE = 3.0  # standard errors, with what runs of levels make of them
LEAST_WORTH = 10.0  # independent frames a visit must hold before a stretch can be told
FEWEST_READINGS = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """Frames [start, end) in order sent that differ; `score` counts as if frames were independent."""

    kind: str
    start: int
    end: int
    score: float


def stretch_of(loss: Floats, noise_dbm: Floats) -> tuple[Stretch, NDArray[np.bool_]] | None:
    """Return the stretch that differs most and the frames that are left, None without one.

    Parameters
    ----------
    loss, noise_dbm
        1 for each lost frame, and the noise at each (NaN where none was read), in order sent.
    """
    return _by_noise(noise_dbm) or _by_loss(loss)


def counts_as_change(stretch: Stretch, frames: int, level_tau: float) -> bool:
    """Tell whether a stretch is one, in view of how long levels stay alike [frames]."""
    if stretch.kind == NOISE:
        return True
    return frames / level_tau >= LEAST_WORTH and stretch.score / level_tau**0.5 > CUT_ABOVE


def _by_noise(noise_dbm: Floats) -> tuple[Stretch, NDArray[np.bool_]] | None:
    known = np.flatnonzero(np.isfinite(noise_dbm))
    if len(known) < FEWEST_READINGS:
        return None
    quiet = np.quantile(noise_dbm[known], QUIET_SHARE)
    loud = noise_dbm[known] > quiet + NOISE_STEP_DB
    # a frame without a reading is as loud as its nearest neighbour with one
    at = np.searchsorted((known[:-1] + known[1:]) / 2, np.arange(len(noise_dbm)))
    marked = loud[at]
    if not LEAST_SHARE <= np.mean(marked) <= MOST_SHARE:
        return None
    inside = np.flatnonzero(marked)
    stretch = Stretch(kind=NOISE, start=int(inside[0]), end=int(inside[-1]) + 1, score=float("inf"))
    return stretch, ~marked


def _by_loss(loss: Floats) -> tuple[Stretch, NDArray[np.bool_]] | None:
    n = len(loss)
    share = float(np.mean(loss))
    if n < GRID or not 0 < share < 1:
        return None
    edges = np.round(np.linspace(0, n, GRID + 1)).astype(int)
    lost = np.concatenate([[0.0], np.cumsum(loss)])[edges]
    a, b = np.triu_indices(GRID + 1, SHORTEST)
    a, b = a[b - a <= LONGEST], b[b - a <= LONGEST]
    inside = edges[b] - edges[a]
    within = (lost[b] - lost[a]) / inside
    outside = (lost[-1] - lost[b] + lost[a]) / (n - inside)
    error = np.sqrt(share * (1 - share) * (1 / inside + 1 / (n - inside)))
    score = (within - outside) / error
    best = int(np.argmax(score))
    if score[best] <= CUT_ABOVE:
        return None
    start, end = int(edges[a[best]]), int(edges[b[best]])
    left = np.ones(n, dtype=bool)
    left[start:end] = False
    return Stretch(kind=LOSS, start=start, end=end, score=float(score[best])), left
