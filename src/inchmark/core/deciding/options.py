"""Many options at once: what each does for the needed places, and which none beats in everything."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from inchmark.core.airtime.collisions import Traffic
from inchmark.core.checks import Floats
from inchmark.core.reading.place_draws import PlaceDraws

GAIN_STEP_DB = 0.1  # options alike to so much share one look at the draws
SHARED = 300  # draws the share of frames is averaged over
TRIED, HEARD, MOST_TRIES = 60, 0.95, 1000  # draws, share of messages, and tries looked at


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Outcomes:
    """What options do, shape (options,): places served with limits, in hand at the weakest, share.

    `tries` is how often a message is sent until 95 % of them are heard at least once, over all
    places; infinite beyond a thousand.
    """

    served: Floats
    served_low: Floats
    served_high: Floats
    expected: Floats  # number of places served, on average
    in_hand_db: Floats
    share: Floats
    tries: Floats


def outcomes(
    draws: PlaceDraws, loss: float, *, gained_db: Floats, airtime_s: Floats, period_s: float
) -> Outcomes:
    """Return what options do whose level differs by so much (options,) [dB].

    The nodes share the channel: each sends once in a period, any overlap kills both. The draws are
    without that traffic.
    """
    found = np.empty((len(gained_db), 7))
    steps = np.round(gained_db / GAIN_STEP_DB)
    for air in np.unique(airtime_s):
        rows = np.flatnonzero(airtime_s == air)
        shared = _Shared.of(draws, loss, float(air), period_s)
        gains, back = np.unique(steps[rows], return_inverse=True)
        told = np.array([shared.outcome(step * GAIN_STEP_DB) for step in gains.tolist()])
        found[rows] = told[back.reshape(-1)]
    return Outcomes(
        served=found[:, 0], served_low=found[:, 1], served_high=found[:, 2],
        expected=found[:, 3], in_hand_db=found[:, 4], share=found[:, 5], tries=found[:, 6],
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Shared:
    """Draws with the nodes' own traffic at one time on air: what is left over the rule [dB]."""

    margin_db: Floats  # (draws, places)
    weakest_db: float
    few: PlaceDraws  # those the share of frames is averaged over

    @classmethod
    def of(cls, draws: PlaceDraws, loss: float, airtime: float, period: float) -> _Shared:
        nodes, kept = draws.over.shape[1], 1.0
        if nodes > 1:
            traffic = Traffic(senders=nodes, airtime_s=airtime, period_s=period)
            kept = traffic.success_at_random_times()
        shared = replace(draws, floor=1 - (1 - draws.floor) * kept)
        return cls(
            margin_db=draws.over - shared.wanted_db(loss)[:, None],
            weakest_db=float(np.min(np.median(draws.over, axis=0))),
            few=shared.some(SHARED),
        )

    def outcome(self, gain: float) -> tuple[float, ...]:
        counts = np.count_nonzero(self.margin_db >= -gain, axis=1)
        below = np.cumsum(np.bincount(counts)) / len(counts)
        low, middle, high = np.searchsorted(below, (0.025, 0.5, 0.975)).tolist()
        shares = self.few.shares(gain)
        tries = tries_until_heard(shares[:: max(len(shares) // TRIED, 1)])
        share, weakest = float(shares.mean()), self.weakest_db + gain
        return middle, low, high, float(counts.mean()), weakest, share, tries


def tries_until_heard(shares: Floats) -> float:
    """Return how often a message is sent until 95 % of them are heard at least once.

    `shares` are the shares heard of single tries, by draw and place: tries at one place are independent,
    places are not alike. Infinite beyond a thousand tries.
    """

    def heard(tries: int) -> bool:
        return bool(1 - np.mean((1 - shares) ** tries) >= HEARD)

    if heard(1):
        return 1.0
    if not heard(MOST_TRIES):
        return float("inf")
    low, high = 1, MOST_TRIES  # not heard, heard
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if heard(middle) else (middle, high)
    return float(high)


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
