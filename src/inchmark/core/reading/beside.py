"""Levels beside levels: what was predicted, and what another walk found at the same places."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy.special import stdtrit

from inchmark.core.checks import Floats
from inchmark.core.interval import Estimate
from inchmark.core.reading.result import VisitReading
from inchmark.core.wording import decibels, distance, number

LEAST_STOPS = 3
FALSE_SPLITS = 0.02  # of walks without one: shared out over all the splits looked at
LEAST_BESIDE = 2  # stops on either side of a split


@dataclass(frozen=True, slots=True, kw_only=True)
class BesidePlan:
    """What walked levels are off predictions by [dB]: all along, or nearer and beyond a distance."""

    off_db: Estimate
    beyond_m: float | None
    nearer_db: float | None
    farther_db: float | None
    sentence: str


def beside_plan(rows: Iterable[tuple[float, float]]) -> BesidePlan | None:
    """Return what distances [m] with residuals (walked less predicted, dB) say; None for too few.

    Residuals at one distance share its shadowing, so they count as one.
    """
    by_distance: dict[float, list[float]] = {}
    for metres, residual in rows:
        by_distance.setdefault(metres, []).append(residual)
    if len(by_distance) < LEAST_STOPS:
        return None
    d = np.array(sorted(by_distance))
    r = np.array([float(np.mean(by_distance[metres])) for metres in d])
    off, split = _mean(r), _split(r)
    if split is None:
        return BesidePlan(
            off_db=off, beyond_m=None, nearer_db=None, farther_db=None, sentence=_along(off)
        )
    near, far = float(r[:split].mean()), float(r[split:].mean())
    beyond = float(np.sqrt(d[split - 1] * d[split]))
    more = "more" if far < near else "less"
    sentence = f"Beyond {distance(beyond)} the ground costs {decibels(abs(far - near), sign=False)} {more} than predicted; nearer in, levels are {decibels(near)} off the prediction."
    return BesidePlan(
        off_db=off, beyond_m=beyond, nearer_db=near, farther_db=far, sentence=sentence
    )


def _along(off: Estimate) -> str:
    limits = f"95 % {number(off.low, sign=True)} … {number(off.high, sign=True)}"
    if off.low <= 0 <= off.high:
        return f"The walk bears the prediction out: {decibels(off.estimate)} ({limits})."
    side = "above" if off.estimate > 0 else "below"
    return f"All along, levels lie {decibels(abs(off.estimate), sign=False)} {side} the prediction ({limits})."


def _split(r: Floats) -> int | None:
    """Return where residuals change beyond chance: how many stops lie nearer in."""
    splits = range(LEAST_BESIDE, len(r) - LEAST_BESIDE + 1)
    freedom = len(r) - 2
    if not splits or freedom < 1:
        return None
    best, at = float(stdtrit(freedom, 1 - FALSE_SPLITS / 2 / len(splits))), None
    for k in splits:
        near, far = r[:k], r[k:]
        pooled = (np.sum((near - near.mean()) ** 2) + np.sum((far - far.mean()) ** 2)) / freedom
        error = float(np.sqrt(max(pooled, 1e-6) * (1 / len(near) + 1 / len(far))))
        score = abs(float(far.mean() - near.mean())) / error
        if score > best:
            best, at = score, k
    return at


def _mean(values: Floats) -> Estimate:
    middle = float(values.mean())
    error = float(np.std(values, ddof=1)) / np.sqrt(len(values)) if len(values) > 1 else np.inf
    reach = float(stdtrit(max(len(values) - 1, 1), 0.975) * error)
    return Estimate(middle, middle - reach, middle + reach)


@dataclass(frozen=True, slots=True, kw_only=True)
class BesideRow:
    """A rig at a stop: level predicted and walked [dBm], walked less predicted [dB]."""

    rig: str
    stop: str
    distance_m: float
    predicted_dbm: float
    walked: VisitReading

    @property
    def off_db(self) -> float:
        """Return the level walked less the one predicted [dB]."""
        level = self.walked.level_dbm
        return (level.estimate if level else 0.0) - self.predicted_dbm


@dataclass(frozen=True, slots=True, kw_only=True)
class WalkChange:
    """A rig on one walk against an earlier one, at the stops, links and conditions they share [dB]."""

    rig: str
    walk: str
    before: str
    visits: int
    change_db: Estimate

    @property
    def beyond_chance(self) -> bool:
        """Tell whether the limits leave no change out."""
        return not self.change_db.low <= 0 <= self.change_db.high


def walk_changes(visits: Sequence[VisitReading]) -> list[WalkChange]:
    """Return what changed from walk to walk, for each rig walked at the same places on both."""
    levels: dict[tuple[str, str], dict[tuple[str, ...], float]] = {}
    for one in visits:
        if one.level_dbm is None or not one.heard or not one.walk:
            continue
        place = one.stop, one.direction, one.receiver, one.condition
        levels.setdefault((one.rig, one.walk), {})[place] = one.level_dbm.estimate
    walks = sorted({walk for _, walk in levels}, key=lambda name: (len(name), name))
    found = []
    for rig in sorted({rig for rig, _ in levels}):
        for before, after in pairwise(walks):
            first, then = levels.get((rig, before), {}), levels.get((rig, after), {})
            shared = sorted(first.keys() & then.keys())
            if len(shared) >= LEAST_STOPS:
                change = np.array([then[place] - first[place] for place in shared])
                found.append(
                    WalkChange(
                        rig=rig,
                        walk=after,
                        before=before,
                        visits=len(shared),
                        change_db=_mean(change),
                    )
                )
    return found
