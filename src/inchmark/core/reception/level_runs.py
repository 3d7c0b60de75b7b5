"""How much the frames of a visit are worth for its level: neighbours fade together.

tau of the level is found as that of losses is (`bursts.py`), from pairs of frames both heard.

References
----------
Geyer 1992 (initial positive monotone sequence), from memory.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.reception.bursts import (
    PRIOR_TAU,
    pooled_covariance,
    products_by_lag,
    time_of,
    toward_prior,
)

MAX_LAG = 200
_ROUNDS = 12
_LONGEST_SHARE = 2 / 3  # of the median visit: a longer one cannot be told from a level of its own
_PRIOR_FRAMES = 4.0  # effective frames the prior tau is worth


@dataclass(frozen=True, slots=True, kw_only=True)
class LevelRuns:
    """One visit's levels by lag: sums of products about its mean, and how many pairs both heard."""

    length: int
    products: Floats
    pairs: Floats


NO_LEVELS = LevelRuns(length=0, products=np.empty(0), pairs=np.empty(0))


def level_runs(level_dbm: Floats) -> LevelRuns:
    """Return the runs of levels in order sent, NaN where a frame was lost or bore no level."""
    known = np.isfinite(level_dbm)
    if np.count_nonzero(known) < 3:
        return NO_LEVELS
    centred = np.where(known, level_dbm - np.mean(level_dbm[known]), 0.0)
    reach = min(len(level_dbm), MAX_LAG)
    return LevelRuns(
        length=len(level_dbm),
        products=products_by_lag(centred, reach),
        pairs=np.round(products_by_lag(known.astype(np.float64), reach)),
    )


def level_time(visits: Sequence[LevelRuns]) -> float:
    """Return tau of the level [frames], at least 1, pooled over visits; the visit means put back."""
    visits = [one for one in visits if one.length]
    if not visits:
        return PRIOR_TAU
    median = float(np.median([one.length for one in visits]))
    lags = int(min(max(median, 2), MAX_LAG))
    observed = pooled_covariance(
        [one.products for one in visits], [one.pairs for one in visits], lags
    )
    if observed[0] <= 0:
        return PRIOR_TAU
    longest = max(_LONGEST_SHARE * median, 1.0)
    tau = time_of(observed, median, longest=longest, least_share=1 / 3, rounds=_ROUNDS)
    worth = sum(float(one.pairs[0]) for one in visits) / tau
    return toward_prior(tau, worth / (worth + _PRIOR_FRAMES))


def level_variance_factor(tau: float, frames: int) -> float:
    """Return tau' = tau / (1 - tau/n), what the variance of a visit's mean level is multiplied by."""
    return tau / max(1 - tau / max(frames, 1), 1 / 3)
