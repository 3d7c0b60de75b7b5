"""What a what-if comes to beyond its decibels: metres, places served, and what it is too much for."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

from inchmark.core.budget import EndName, ItemKey
from inchmark.core.deciding.effects import gained
from inchmark.core.propagation.log_distance import range_factor
from inchmark.core.reading.result import Reading
from inchmark.core.wording import distance, number
from inchmark.decide.figures.budgets import BudgetBasis, RigBudget
from inchmark.decide.figures.mends import Basis
from inchmark.plan.adapters.predictions import loss_between
from inchmark.shelf.models import Rig
from inchmark.studies.tape.marks import RangeMark

STEP = 1.1  # between two distances that a prediction's slope is taken from
LEAST_EXPONENT = 1.0  # near a two-ray null a prediction falls the other way
POWERS = {ItemKey.CARRIED_POWER: EndName.CARRIED, ItemKey.FIXED_POWER: EndName.FIXED}


def what_it_comes_to(
    plain: RigBudget, shown: RigBudget, reading: Reading | None, basis: Basis | None
) -> list[str]:
    """Return in sentences how far a changed rig would reach and how many places it would serve."""
    gain = shown.in_hand_db - plain.in_hand_db
    found = []
    exponent = reading.site.exponent if reading else None
    reach = plain.walked.loss_range_m if plain.walked else None
    if reach and exponent:
        low, middle, high = (
            one * float(range_factor(gain, exponent.estimate))
            for one in (reach.low, reach.estimate, reach.high)
        )
        found.append(
            f"It would reach {distance(middle)} ({distance(low)} to {distance(high)}), as it is {distance(reach.estimate)}."
        )
    if basis is not None and len(basis.labels) > 1:
        now, then = basis.now.count, gained(basis.draws, basis.loss, gain).count
        found.append(
            f"It would serve {then.estimate:.0f} of {len(basis.labels)} places ({then.low:.0f} to {then.high:.0f}), as it is {now.estimate:.0f}."
        )
    return found


def exponent_near(ground: BudgetBasis, rig: Rig, metres: float) -> float:
    """Return the path exponent: the walked one, else the prediction's own slope at a distance [m]."""
    if ground.reading and ground.reading.site.exponent:
        return float(ground.reading.site.exponent.estimate)
    near, far = (loss_between(rig, ground.site, at).loss_db for at in (metres, STEP * metres))
    return max((far - near) / (10 * math.log10(STEP)), LEAST_EXPONENT)


def moved(mark: RangeMark, gain_db: float, exponent: float) -> RangeMark:
    """Return a rig's range on the tape as a changed budget would move it, where it was beside it."""
    if mark.known is None:
        return mark
    factor = float(range_factor(gain_db, exponent))
    low, middle, high = (one * factor for one in mark.known)
    return replace(
        mark, low_m=low, middle_m=middle, high_m=high, was_m=mark.known[1], measured=False
    )


def too_much(rig: Rig, shown: RigBudget) -> list[str]:
    """Return in sentences which changed figures are beyond the module or the table of limits."""
    return [*_beyond_module(rig, shown), *_beyond_law(shown)]


def _beyond_module(rig: Rig, shown: RigBudget) -> Iterator[str]:
    module = rig.module_part
    for key, end in POWERS.items():
        power = shown.what_if.changes.get(key)
        if module is not None and power is not None and power > module.power_high_dbm + 1e-9:
            yield f"{number(power, 1)} dBm at the {end.value} end is more than {module.name} gives ({number(module.power_high_dbm, 1)} dBm)."


def _beyond_law(shown: RigBudget) -> Iterator[str]:
    if not shown.what_if.changes:
        return
    for check in shown.legal:
        best = check.best
        if best is not None and not best.power_fits:
            yield f"The {check.end} would radiate {number(best.power_dbm, 1)} dBm {best.limit.kind}, {number(-best.left_db, 1)} dB over the limit of {best.limit.band}."
