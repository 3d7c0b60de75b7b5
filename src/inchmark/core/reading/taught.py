"""What a walk teaches of its surroundings: slope, loss beyond free space, spread between places."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.interval import Estimate
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.reading.result import Reading


@dataclass(frozen=True, slots=True, kw_only=True)
class Taught:
    """What a walk taught; the offset holds at `at_m`, over all rigs with a known budget."""

    exponent: Estimate
    offset_db: Estimate
    at_m: float
    shadowing_db: Estimate | None
    stops: int
    rigs: tuple[str, ...]


def taught_by(reading: Reading, frequency_hz: float) -> Taught | None:
    """Return what a reading teaches, None where slope or budgets are not known.

    Rigs share the path, so their limits are averaged, not narrowed.
    """
    known = [
        (one.rig, one.needed.distance_m, one.reference_dbm, one.needed.level_dbm)
        for one in reading.rigs
        if one.needed and one.needed.level_dbm and one.reference_dbm is not None
    ]
    if reading.site.exponent is None or not known:
        return None
    at_m = known[0][1]
    free = float(free_space_loss_db(at_m, frequency_hz))
    losses = np.array(
        [[ref - one.estimate, ref - one.high, ref - one.low] for *_, ref, one in known]
    )
    middle, low, high = (float(one) for one in losses.mean(axis=0) - free)
    return Taught(
        exponent=reading.site.exponent,
        offset_db=Estimate(middle, low, high),
        at_m=at_m,
        shadowing_db=reading.site.shadowing_db,
        stops=len({one.stop for one in reading.visits}),
        rigs=tuple(rig for rig, *_ in known),
    )
