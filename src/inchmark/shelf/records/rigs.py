"""Rigs as the core knows them: two ends, a prior for the link model, airtime."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from inchmark.core.airtime.chirp import ChirpSetting
from inchmark.core.airtime.duty_cycle import messages_per_hour, min_interval_s
from inchmark.core.airtime.packets import gfsk_airtime_s
from inchmark.core.antenna.match import Match
from inchmark.core.antenna.polarisation import polarisation_loss_db
from inchmark.core.budget import End, Part, radiated_power_dbm
from inchmark.core.link_model.data import RigPrior
from inchmark.core.noise import chirp_snr_limit_db, sensitivity_dbm
from inchmark.core.reading.measured import RigFacts
from inchmark.shelf.models import Rig

GFSK_REQUIRED_SNR_DB = 10.0  # common practice for two-level FSK at 0.1 % bit errors


@dataclass(frozen=True, slots=True, kw_only=True)
class Sensitivity:
    """A level [dBm] and where it came from."""

    dbm: float
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingFigures:
    """What a setting costs on the air."""

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
        return Sensitivity(dbm=rig.sensitivity_dbm, source="datasheet, as typed")
    if rig.modulation == Rig.CHIRP:
        snr, words = chirp_snr_limit_db(rig.spreading_factor or 7), "S/N limit from memory"
    else:
        snr, words = GFSK_REQUIRED_SNR_DB, "S/N common practice"
    level = sensitivity_dbm(
        bandwidth_hz=rig.bandwidth_hz, noise_figure_db=rig.noise_figure_db, required_snr_db=snr
    )
    return Sensitivity(
        dbm=float(level), source=f"kTB + {rig.noise_figure_db:g} dB noise figure + {words}"
    )


def airtime_s(rig: Rig) -> float:
    """Return the time on air of one frame [s]."""
    if rig.modulation == Rig.CHIRP:
        return _chirp(rig).airtime_s(rig.payload_bytes)
    return gfsk_airtime_s(
        bit_rate_bit_s=rig.bit_rate_bit_s or 1.0,
        payload_bytes=rig.payload_bytes,
        preamble_bytes=rig.preamble,
    )


def _chirp(rig: Rig) -> ChirpSetting:
    return ChirpSetting(
        spreading_factor=rig.spreading_factor or 7,
        bandwidth_hz=rig.bandwidth_hz,
        coding_rate_denominator=rig.coding_rate,
        preamble_symbols=rig.preamble,
    )


def figures_of(rig: Rig) -> SettingFigures:
    """Return airtime, bit rate, messages an hour, sensitivity and radiated power."""
    seconds = airtime_s(rig)
    chirp = rig.modulation == Rig.CHIRP
    return SettingFigures(
        airtime_s=seconds,
        bit_rate_bit_s=_chirp(rig).bit_rate_bit_s if chirp else rig.bit_rate_bit_s or 0.0,
        messages_per_hour=messages_per_hour(seconds, rig.duty_cycle_percent),
        min_interval_s=min_interval_s(seconds, rig.duty_cycle_percent),
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
    angle = rig.polarisation_angle_deg
    if angle:
        loss = polarisation_loss_db("linear", "linear", angle_deg=angle)
        name = f"Polarisation, {angle:g}°"
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
    return [
        ("module", rig.module),
        ("setting", f"{rig.setting} {rig.bandwidth_hz:g} {rig.coding_rate}"),
        ("frequency", f"{rig.frequency_hz:g}"),
        ("transmit power", f"{rig.power_dbm:g}"),
        ("antenna", f"{rig.antenna} {rig.antenna_gain_dbi:g}"),
        ("feed", f"{rig.feed_loss_db:g}"),
        ("housing", f"{rig.housing_loss_db:g}"),
        ("polarisation", f"{rig.polarisation_angle_deg:g}"),
        ("height", f"{rig.height_m:g}"),
        ("fixed antenna", f"{rig.fixed_antenna} {rig.fixed_gain_dbi:g} {rig.fixed_feed_loss_db:g}"),
        ("fixed height", f"{rig.fixed_height_m:g}"),
    ]
