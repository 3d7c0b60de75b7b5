"""Rigs as the core knows them: two ends, a prior for the link model, airtime."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from inchmark.core.airtime.duty_cycle import messages_per_hour, min_interval_s
from inchmark.core.antenna.match import Match
from inchmark.core.antenna.polarisation import polarisation_loss_db
from inchmark.core.budget import End, Part, radiated_power_dbm
from inchmark.core.link_model.data import RigPrior
from inchmark.core.reading.measured import RigFacts
from inchmark.core.wording import level, number
from inchmark.shelf.models import Rig
from inchmark.shelf.records.settings import Sensitivity, computed_sensitivity, radio_setting


@dataclass(frozen=True, slots=True, kw_only=True)
class RigFigures:
    """What a rig costs on the air, and what it radiates."""

    airtime_s: float
    bit_rate_bit_s: float
    messages_per_hour: int
    min_interval_s: float
    sensitivity: Sensitivity
    radiated_dbm: float


def sensitivity_of(rig: Rig) -> Sensitivity:
    """Return the bench's measurement, the datasheet row, or noise figure plus required S/N."""
    if rig.conducted_dbm is not None:
        return Sensitivity(dbm=rig.conducted_dbm, source=rig.conducted_source)
    if rig.sensitivity_dbm is not None:
        source = rig.sensitivity_source or "datasheet, as typed"
        return Sensitivity(dbm=rig.sensitivity_dbm, source=source)
    return computed_sensitivity(rig, rig.noise_figure_db)


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


def carried_end(rig: Rig) -> End:
    """Return the end that walks."""
    return End(
        transmit_power_dbm=rig.power_dbm,
        sensitivity_dbm=sensitivity_of(rig).dbm,
        antenna_gain_dbi=rig.antenna_gain_dbi,
        feed_loss_db=rig.feed_loss_db,
        parts=tuple(_parts(rig)),
    )


def _parts(rig: Rig) -> Iterator[Part]:
    """Yield the further losses of the carried end that are not nothing."""
    if rig.vswr is not None:
        yield Part(
            key="mismatch",
            name=f"Mismatch (VSWR {rig.vswr:.1f})",
            loss_db=Match.from_vswr(rig.vswr).mismatch_loss_db,
            source=rig.vswr_source,
        )
    if rig.housing_loss_db:
        yield Part(key="housing", name="Housing", loss_db=rig.housing_loss_db, source="typed")
    if rig.carry_loss_db:
        name = (rig.get_carry_display() or "carried").capitalize()
        yield Part(key="carry", name=name, loss_db=rig.carry_loss_db, source="typed")
    angle = rig.polarisation_angle_deg
    near, far = rig.polarisation, rig.fixed_polarisation
    loss = polarisation_loss_db(near, far, angle_deg=angle)
    if loss:
        name = f"Polarisation, {angle:g}°" if near == far == "linear" else f"{near} to {far}"
        yield Part(key="polarisation", name=name, loss_db=loss, source="typed", on_path=True)


def fixed_end(rig: Rig) -> End:
    """Return the end that stays; the same module and setting, its own antenna, feed and power."""
    return End(
        transmit_power_dbm=rig.fixed_power_dbm,
        sensitivity_dbm=sensitivity_of(rig).dbm,
        antenna_gain_dbi=rig.fixed_gain_dbi,
        feed_loss_db=rig.fixed_feed_loss_db,
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
    ]


@dataclass(frozen=True, slots=True, kw_only=True)
class DifferenceTable:
    """What each rig changes against the reference rig, the first; an empty cell is the same."""

    reference: Rig
    things: list[str]
    reference_values: list[str]
    rows: list[tuple[Rig, list[str], int]]  # rig, its values, how many it changes


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
        rows.append((rig, cells, sum(map(bool, cells))))
    return DifferenceTable(
        reference=rigs[0],
        things=things,
        reference_values=[first[name] for name in things],
        rows=rows,
    )
