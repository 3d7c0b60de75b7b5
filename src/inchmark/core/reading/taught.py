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


def losses_of(reading: Reading) -> dict[str, tuple[float, Estimate]]:
    """Return the distance [m] and the loss there [dB] of each rig whose budget and level are known.

    What walls cost there is taken off: the loss is that beside them.
    """
    walls = dict(reading.site.walls_needed_db)
    return {
        one.rig: (
            one.needed.distance_m,
            _loss(one.reference_dbm - walls.get(one.rig, 0.0), one.needed.level_dbm),
        )
        for one in reading.rigs
        if one.needed and one.needed.level_dbm and one.reference_dbm is not None
    }


def _loss(reference_dbm: float, level: Estimate) -> Estimate:
    return Estimate(
        reference_dbm - level.estimate, reference_dbm - level.high, reference_dbm - level.low
    )


def taught_by(reading: Reading, frequency_hz: float) -> Taught | None:
    """Return what a reading teaches, None where slope or budgets are not known.

    Rigs share the path, so their limits are averaged, not narrowed.
    """
    known = losses_of(reading)
    if reading.site.exponent is None or not known:
        return None
    at_m = next(iter(known.values()))[0]
    free = float(free_space_loss_db(at_m, frequency_hz))
    losses = np.array([[one.estimate, one.low, one.high] for _, one in known.values()])
    middle, low, high = (float(one) for one in losses.mean(axis=0) - free)
    return Taught(
        exponent=reading.site.exponent,
        offset_db=Estimate(middle, low, high),
        at_m=at_m,
        shadowing_db=reading.site.shadowing_db,
        stops=len({one.stop for one in reading.visits}),
        rigs=tuple(known),
    )
