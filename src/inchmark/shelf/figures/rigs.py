"""What a rig costs on the air, and what rigs differ by."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from inchmark.core.airtime.duty_cycle import messages_per_hour, min_interval_s
from inchmark.core.budget import radiated_power_dbm
from inchmark.core.threshold import Sensitivity
from inchmark.shelf.adapters.ends import carried_end, sensitivity_of
from inchmark.shelf.adapters.rigs import things_of
from inchmark.shelf.adapters.settings import radio_setting
from inchmark.shelf.figures.limits import Duty, duty_of
from inchmark.shelf.models import Rig


@dataclass(frozen=True, slots=True, kw_only=True)
class RigFigures:
    """What a rig costs on the air, and what it radiates."""

    airtime_s: float
    bit_rate_bit_s: float
    messages_per_hour: int
    min_interval_s: float
    duty: Duty
    sensitivity: Sensitivity
    radiated_dbm: float


def rig_figures(rig: Rig) -> RigFigures:
    """Return airtime, bit rate, messages an hour, sensitivity and radiated power.

    Messages an hour keep the duty cycle that is typed, or the sub-band's where that is less.
    """
    radio, duty = radio_setting(rig), duty_of(rig, rig.study.region)
    return RigFigures(
        airtime_s=radio.airtime_s,
        bit_rate_bit_s=radio.rate_bit_s,
        messages_per_hour=messages_per_hour(radio.airtime_s, duty.percent),
        min_interval_s=min_interval_s(radio.airtime_s, duty.percent),
        duty=duty,
        sensitivity=sensitivity_of(rig),
        radiated_dbm=radiated_power_dbm(carried_end(rig)),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class DifferenceRow:
    """A rig's values where they differ, how many do, and the rigs it differs from by one thing."""

    rig: Rig
    cells: list[str]
    count: int
    clean_with: list[tuple[str, str]]  # letter, the one thing


@dataclass(frozen=True, slots=True, kw_only=True)
class DifferenceTable:
    """What each rig changes against the reference rig, the first; an empty cell is the same."""

    reference: Rig
    things: list[str]
    reference_values: list[str]
    rows: list[DifferenceRow]


def difference_table(rigs: Sequence[Rig]) -> DifferenceTable | None:
    """Return the things that differ between rigs; None with fewer than two."""
    if len(rigs) < 2:
        return None
    values = [dict(things_of(rig)) for rig in rigs]
    first = values[0]
    things = [name for name in first if any(one[name] != first[name] for one in values)]
    rows = []
    for rig, own in zip(rigs[1:], values[1:], strict=True):
        cells = [own[name] if own[name] != first[name] else "" for name in things]
        others = [(one.letter, _changed(own, v)) for one, v in zip(rigs, values, strict=True)]
        clean = [(letter, changed[0]) for letter, changed in others if len(changed) == 1]
        rows.append(
            DifferenceRow(rig=rig, cells=cells, count=sum(map(bool, cells)), clean_with=clean)
        )
    return DifferenceTable(
        reference=rigs[0],
        things=things,
        reference_values=[first[name] for name in things],
        rows=rows,
    )


def _changed(own: dict[str, str], other: dict[str, str]) -> list[str]:
    return [name for name, value in own.items() if other[name] != value]
