"""What a what-if comes to beyond its decibels: metres, places served, and what it is too much for."""

from __future__ import annotations

from collections.abc import Iterator

from inchmark.core.budget import EndName, ItemKey
from inchmark.core.deciding.effects import gained
from inchmark.core.propagation.log_distance import range_factor
from inchmark.core.reading.result import Reading
from inchmark.core.wording import distance, number
from inchmark.decide.figures.budgets import RigBudget
from inchmark.decide.figures.mends import Basis
from inchmark.shelf.models import Rig

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
