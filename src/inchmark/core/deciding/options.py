"""Many options at once: what each does for the needed places, and which none beats in everything."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from inchmark.core.airtime.collisions import Traffic
from inchmark.core.checks import Floats
from inchmark.core.reading.place_draws import PlaceDraws

GAIN_STEP_DB = 0.1  # options alike to so much share one look at the draws
SHARED = 300  # draws the share of frames is averaged over


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Outcomes:
    """What options do, shape (options,): places served with limits, in hand at the weakest, share."""

    served: Floats
    served_low: Floats
    served_high: Floats
    expected: Floats  # number of places served, on average
    in_hand_db: Floats
    share: Floats


def outcomes(
    draws: PlaceDraws, loss: float, *, gained_db: Floats, airtime_s: Floats, period_s: float
) -> Outcomes:
    """Return what options do whose level differs by so much (options,) [dB].

    The nodes share the channel: each sends once in a period, any overlap kills both. The draws are
    without that traffic.
    """
    keys = np.stack([np.round(gained_db / GAIN_STEP_DB), airtime_s], axis=1)
    unique, back = np.unique(keys, axis=0, return_inverse=True)
    rows = np.array([_outcome(draws, loss, steps, air, period_s) for steps, air in unique.tolist()])
    found = rows[back.reshape(-1)]
    return Outcomes(
        served=found[:, 0], served_low=found[:, 1], served_high=found[:, 2],
        expected=found[:, 3], in_hand_db=found[:, 4], share=found[:, 5],
    )  # fmt: skip


def _outcome(
    draws: PlaceDraws, loss: float, steps: float, airtime: float, period: float
) -> tuple[float, float, float, float, float, float]:
    nodes = draws.over.shape[1]
    kept = 1.0
    if nodes > 1:
        kept = Traffic(senders=nodes, airtime_s=airtime, period_s=period).success_at_random_times()
    floor = 1 - (1 - draws.floor) * kept
    shared = PlaceDraws(
        over=draws.over + steps * GAIN_STEP_DB, typical=draws.typical, exponent=draws.exponent,
        place_db=draws.place_db, frame_db=draws.frame_db, floor=floor,
    )  # fmt: skip
    counts = shared.meets(loss).sum(axis=1)
    low, middle, high = np.quantile(counts, (0.025, 0.5, 0.975), method="inverted_cdf")
    some = np.linspace(0, len(counts) - 1, min(SHARED, len(counts))).round().astype(int)
    few = PlaceDraws(
        over=shared.over[some], typical=draws.typical[some], exponent=draws.exponent[some],
        place_db=draws.place_db[some], frame_db=draws.frame_db[some], floor=floor[some],
    )  # fmt: skip
    weakest = float(np.min(np.median(shared.over, axis=0)))
    return middle, low, high, float(counts.mean()), weakest, float(few.shares().mean())


def not_dominated(costs: Floats) -> NDArray[np.bool_]:
    """Return which rows no other row is at least as good as in every column and better in one.

    Shape (rows, columns), less is better; NaN counts as worst. Rows alike stand together.
    """
    known = np.where(np.isnan(costs), np.inf, costs)
    order = np.lexsort(known.T[::-1])
    front = np.empty((0, known.shape[1]))
    found = np.zeros(len(known), dtype=bool)
    for row in order.tolist():
        one = known[row]
        no_worse = np.all(front <= one, axis=1)
        if not np.any(no_worse & np.any(front < one, axis=1)):
            found[row] = True
            front = np.vstack([front, one]) if not np.any(np.all(front == one, axis=1)) else front
    return found
