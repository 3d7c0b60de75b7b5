"""Rigs as the core knows them: airtime, a prior for the link model, what differs between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import Prefetch, prefetch_related_objects

from inchmark.core.airtime.duty_cycle import messages_per_hour, min_interval_s
from inchmark.core.budget import radiated_power_dbm
from inchmark.core.link_model.data import RigPrior
from inchmark.core.reading.measured import RigFacts
from inchmark.core.wording import level, number
from inchmark.shelf.models import BudgetItem, Rig
from inchmark.shelf.records.ends import carried_end, sensitivity_of
from inchmark.shelf.records.settings import Sensitivity, radio_setting
from inchmark.studies.models import Study


@dataclass(frozen=True, slots=True, kw_only=True)
class RigFigures:
    """What a rig costs on the air, and what it radiates."""

    airtime_s: float
    bit_rate_bit_s: float
    messages_per_hour: int
    min_interval_s: float
    sensitivity: Sensitivity
    radiated_dbm: float


def rigs_of(study: Study) -> list[Rig]:
    """Return a study's rigs with their parts; read once for a page and the tape above it.

    The rows stay with the study object, so whoever changes rigs asks the database instead.
    """
    prefetch_related_objects([study], Prefetch("rigs", Rig.objects.with_parts()))
    return list(study.rigs.all())


def airtime_s(rig: Rig) -> float:
    """Return the time on air of one frame [s]."""
    return radio_setting(rig).airtime_s


def figures_of(rig: Rig) -> RigFigures:
    """Return airtime, bit rate, messages an hour, sensitivity and radiated power."""
    radio = radio_setting(rig)
    return RigFigures(
        airtime_s=radio.airtime_s,
        bit_rate_bit_s=radio.rate_bit_s,
        messages_per_hour=messages_per_hour(radio.airtime_s, rig.duty_cycle_percent),
        min_interval_s=min_interval_s(radio.airtime_s, rig.duty_cycle_percent),
        sensitivity=sensitivity_of(rig),
        radiated_dbm=radiated_power_dbm(carried_end(rig)),
    )


def facts_of(rig: Rig) -> RigFacts:
    """Return what a reading needs to know of a rig."""
    return RigFacts(
        name=rig.name,
        prior=RigPrior(
            module_type=f"{rig.module}/{rig.setting}/{rig.bandwidth_hz:g}",
            sensitivity_dbm=sensitivity_of(rig).dbm,
            conducted=rig.conducted_dbm is not None,
        ),
        varied=tuple(_varied(rig)),
    )


def _varied(rig: Rig) -> list[tuple[str, str]]:
    """Return what a comparison would have to hold the same, in words."""
    bandwidth = f"{rig.bandwidth_hz / 1e3:.6g} kHz"
    coding = f" 4/{rig.coding_rate}" if rig.modulation == Rig.CHIRP else ""
    fixed = (
        f"{rig.fixed_antenna or 'unnamed'} {number(rig.fixed_gain_dbi, 2)} dBi, "
        f"{number(rig.fixed_feed_loss_db, 2)} dB feed"
    )
    return [
        ("module", rig.module),
        ("setting", f"{rig.setting} {bandwidth}{coding}"),
        ("frequency", f"{rig.frequency_hz / 1e6:.9g} MHz"),
        ("transmit power", level(rig.power_dbm)),
        ("antenna", f"{rig.antenna} {number(rig.antenna_gain_dbi, 2)} dBi"),
        ("feed", f"{number(rig.feed_loss_db, 2)} dB"),
        ("housing", f"{number(rig.housing_loss_db)} dB"),
        ("polarisation", f"{rig.polarisation_angle_deg:g}°"),
        ("carried", f"{rig.get_carry_display() or 'free'} {number(rig.carry_loss_db)} dB"),
        ("height", f"{rig.height_m:g} m"),
        ("fixed antenna", fixed),
        ("fixed height", f"{rig.fixed_height_m:g} m"),
        ("budget items", ", ".join(map(_item_words, rig.budget_items.all())) or "none"),
    ]


def _item_words(item: BudgetItem) -> str:
    return f"{item.get_key_display()} {number(item.db, sign=True)} dB"


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
    values = [dict(_varied(rig)) for rig in rigs]
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
