"""Settings as the core knows them, what each costs, and a module's sensitivity ladder."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.airtime import setting as core
from inchmark.core.airtime.duty_cycle import messages_per_hour
from inchmark.core.airtime.setting import RadioSetting
from inchmark.core.wording import number
from inchmark.shelf.models import Module, Setting, SettingFields


@dataclass(frozen=True, slots=True, kw_only=True)
class Sensitivity:
    """A level [dBm] and where it came from."""

    dbm: float
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingFigures:
    """What a setting of a module costs: airtime [s], rate, energy [J], messages an hour."""

    airtime_s: float
    bit_rate_bit_s: float
    occupied_hz: float
    messages_per_hour: int
    sensitivity: Sensitivity
    energy_j: float | None  # of transmitting one message; None without a transmit current


def radio_setting(row: SettingFields, *, crystal_ppm: float = 10.0) -> RadioSetting:
    """Return a row's setting as the core knows it; crystals of one tolerance at both ends."""
    return RadioSetting(
        modulation=row.modulation,
        frequency_hz=row.frequency_hz,
        bandwidth_hz=row.bandwidth_hz,
        payload_bytes=row.payload_bytes,
        preamble=row.preamble,
        spreading_factor=row.spreading_factor,
        coding_rate=row.coding_rate,
        explicit_header=row.explicit_header,
        payload_crc=row.payload_crc,
        low_data_rate=row.low_data_rate,
        bit_rate_bit_s=row.bit_rate_bit_s,
        deviation_hz=row.deviation_hz,
        ppm_both_ends=2 * crystal_ppm,
    )


def computed_sensitivity(row: SettingFields, noise_figure_db: float) -> Sensitivity:
    """Return k T B + noise figure + required S/N, with what each rests on."""
    words = "S/N common practice" if row.modulation == "gfsk" else "S/N limit from memory"
    return Sensitivity(
        dbm=radio_setting(row).sensitivity_dbm(noise_figure_db),
        source=f"kTB + {noise_figure_db:g} dB noise figure + {words}",
    )


def datasheet_row(module: Module, setting: Setting) -> tuple[float, str] | None:
    """Return the datasheet's sensitivity [dBm] for a setting and its source; None without a row."""
    kilohertz = f"{setting.bandwidth_hz / 1e3:.4g}"
    names = {
        _plain(name)
        for name in (setting.name, setting.setting, f"{setting.setting} {kilohertz} kHz")
    }
    for name, dbm, per_percent in module.sensitivities:
        if _plain(name) in names:
            return float(dbm), f"datasheet, {per_percent:g} % PER"
    return None


def _plain(text: str) -> str:
    return "".join(text.lower().split())


def sensitivity_of_setting(setting: Setting, module: Module) -> Sensitivity:
    """Return the datasheet row, or noise figure plus required S/N."""
    row = datasheet_row(module, setting)
    if row:
        return Sensitivity(dbm=row[0], source=row[1])
    return computed_sensitivity(setting, module.noise_figure_db)


def transmit_current_a(module: Module, power_dbm: float) -> float | None:
    """Return the transmit current [A] at a power, between the datasheet's rows."""
    rows = sorted(module.transmit_currents)
    if not rows:
        return None
    return float(np.interp(power_dbm, [r[0] for r in rows], [r[1] for r in rows]))


def setting_figures(setting: Setting, module: Module) -> SettingFigures:
    """Return what a setting costs on this module."""
    radio = radio_setting(setting)
    current = transmit_current_a(module, setting.power_dbm)
    return SettingFigures(
        airtime_s=radio.airtime_s,
        bit_rate_bit_s=radio.rate_bit_s,
        occupied_hz=radio.occupied_hz,
        messages_per_hour=messages_per_hour(radio.airtime_s, setting.duty_cycle_percent),
        sensitivity=sensitivity_of_setting(setting, module),
        energy_j=None if current is None else current * module.supply_v * radio.airtime_s,
    )


def problems_of(setting: Setting) -> list[str]:
    """Return why no radio can be set so."""
    return core.problems(radio_setting(setting))


def odd_in(setting: Setting, module: Module) -> list[str]:
    """Return what is odd in a setting on this module, in sentences."""
    found = core.odd(radio_setting(setting, crystal_ppm=module.crystal_ppm))
    if not module.power_low_dbm <= setting.power_dbm <= module.power_high_dbm:
        found.append(
            f"{number(setting.power_dbm)} dBm is outside the module's "
            f"{number(module.power_low_dbm)} to {number(module.power_high_dbm)} dBm."
        )
    bands = module.bands
    if bands and not any(low <= setting.frequency_hz <= high for low, high in bands):
        found.append(f"{setting.frequency_hz / 1e6:g} MHz is in none of the module's bands.")
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class LadderStep:
    """A setting on the ruler: where it lies [per cent], and its price against the cheapest."""

    setting: Setting
    figures: SettingFigures
    odd: list[str]
    x: float
    gained_db: float
    times_airtime: float
    joules_per_db: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SensitivityLadder:
    """All settings of a module, the least sensitive first, and the ruler's ticks."""

    steps: list[LadderStep]
    ticks: list[tuple[float, str]]


def sensitivity_ladder(module: Module, settings: Sequence[Setting]) -> SensitivityLadder:
    """Return a module's settings on the dBm ruler, with what each further dB costs."""
    pairs = [(setting, setting_figures(setting, module)) for setting in settings]
    pairs.sort(key=lambda pair: -pair[1].sensitivity.dbm)
    if not pairs:
        return SensitivityLadder(steps=[], ticks=[])
    levels = [figures.sensitivity.dbm for _, figures in pairs]
    low = np.floor(min(levels) / 10) * 10 - 5
    high = np.ceil(max(levels) / 10) * 10 + 5

    def x(dbm: float) -> float:
        return round(float(100 * (dbm - low) / (high - low)), 2)

    first = pairs[0][1]
    steps = [
        LadderStep(
            setting=setting,
            figures=figures,
            odd=odd_in(setting, module),
            x=x(figures.sensitivity.dbm),
            gained_db=first.sensitivity.dbm - figures.sensitivity.dbm,
            times_airtime=figures.airtime_s / first.airtime_s,
            joules_per_db=_price(first, figures),
        )
        for setting, figures in pairs
    ]
    marks = np.arange(low + 5, high, 10)
    return SensitivityLadder(
        steps=steps, ticks=[(x(float(dbm)), number(float(dbm), 0)) for dbm in marks]
    )


def _price(first: SettingFigures, figures: SettingFigures) -> float | None:
    """Return the further energy a message costs for each dB gained [J/dB]."""
    gained = first.sensitivity.dbm - figures.sensitivity.dbm
    if gained < 0.05 or first.energy_j is None or figures.energy_j is None:
        return None
    return (figures.energy_j - first.energy_j) / gained
