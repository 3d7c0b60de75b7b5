"""What each setting costs, what is unusual in it, and a module's sensitivity ladder."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from inchmark.core.airtime import setting as core
from inchmark.core.airtime.duty_cycle import messages_per_hour
from inchmark.core.threshold import Sensitivity
from inchmark.core.wording import number
from inchmark.shelf.adapters.settings import (
    radio_setting,
    sensitivity_of_setting,
    transmit_current_a,
)
from inchmark.shelf.models import Module, Setting


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingFigures:
    """What a setting of a module costs: airtime [s], rate, energy [J], messages an hour."""

    airtime_s: float
    bit_rate_bit_s: float
    occupied_hz: float
    messages_per_hour: int
    sensitivity: Sensitivity
    energy_j: float | None  # of transmitting one message; None without a transmit current


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


def unusual_in(setting: Setting, module: Module) -> list[str]:
    """Return what is unusual in a setting on this module, in sentences."""
    found = core.unusual(radio_setting(setting, crystal_ppm=module.crystal_ppm))
    if not module.power_low_dbm <= setting.power_dbm <= module.power_high_dbm:
        found.append(
            f"{number(setting.power_dbm)} dBm is outside the module's {number(module.power_low_dbm)} to {number(module.power_high_dbm)} dBm."
        )
    bands = module.bands
    if bands and not any(low <= setting.frequency_hz <= high for low, high in bands):
        found.append(f"{setting.frequency_hz / 1e6:g} MHz is in none of the module's bands.")
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class SettingStep:
    """A setting among the others of its module: its price against the least sensitive."""

    setting: Setting
    figures: SettingFigures
    unusual: list[str]
    gained_db: float
    times_airtime: float
    joules_per_db: float | None


def sensitivity_ladder(module: Module, settings: Sequence[Setting]) -> list[SettingStep]:
    """Return a module's settings, the least sensitive first, with what each further dB costs."""
    pairs = [(setting, setting_figures(setting, module)) for setting in settings]
    pairs.sort(key=lambda pair: -pair[1].sensitivity.dbm)
    return [
        SettingStep(
            setting=setting,
            figures=figures,
            unusual=unusual_in(setting, module),
            gained_db=pairs[0][1].sensitivity.dbm - figures.sensitivity.dbm,
            times_airtime=figures.airtime_s / pairs[0][1].airtime_s,
            joules_per_db=_price(pairs[0][1], figures),
        )
        for setting, figures in pairs
    ]


def _price(first: SettingFigures, figures: SettingFigures) -> float | None:
    """Return the further energy a message costs for each dB gained [J/dB]."""
    gained = first.sensitivity.dbm - figures.sensitivity.dbm
    if gained < 0.05 or first.energy_j is None or figures.energy_j is None:
        return None
    return (figures.energy_j - first.energy_j) / gained
