"""Settings as the core knows them, and what a receiver hears with one."""

from __future__ import annotations

import numpy as np

from inchmark.core.airtime import setting as core
from inchmark.core.airtime.setting import RadioSetting
from inchmark.core.alike import alike
from inchmark.core.threshold import Sensitivity
from inchmark.shelf.models import Module, Setting, SettingFields


def radio_setting(row: SettingFields, *, crystal_ppm: float = 10.0) -> RadioSetting:
    """Return a row's setting as the core knows it; crystals of one tolerance at both ends."""
    return alike(RadioSetting, row, ppm_both_ends=2 * crystal_ppm)


def computed_sensitivity(row: SettingFields, noise_figure_db: float) -> Sensitivity:
    """Return k T B + noise figure + required S/N, with what each rests on."""
    words = "S/N common practice" if row.modulation == "gfsk" else "S/N limit from memory"
    radio = radio_setting(row)
    return Sensitivity(
        dbm=radio.sensitivity_dbm(noise_figure_db),
        loss=radio.required_snr_loss,
        source=f"kTB + {noise_figure_db:g} dB noise figure + {words}",
    )


def datasheet_row(module: Module, setting: Setting) -> Sensitivity | None:
    """Return the datasheet's sensitivity for a setting; None without a row."""
    kilohertz = f"{setting.bandwidth_hz / 1e3:.4g}"
    names = {
        _plain(name)
        for name in (setting.name, setting.setting, f"{setting.setting} {kilohertz} kHz")
    }
    for name, dbm, per_percent in module.sensitivities:
        if _plain(name) in names:
            source = f"datasheet, {per_percent:g} % PER"
            return Sensitivity(dbm=float(dbm), loss=per_percent / 100, source=source)
    return None


def _plain(text: str) -> str:
    return "".join(text.lower().split())


def sensitivity_of_setting(setting: Setting, module: Module) -> Sensitivity:
    """Return the datasheet row, or noise figure plus required S/N."""
    row = datasheet_row(module, setting)
    return row or computed_sensitivity(setting, module.noise_figure_db)


def transmit_current_a(module: Module, power_dbm: float) -> float | None:
    """Return the transmit current [A] at a power, between the datasheet's rows."""
    rows = sorted(module.transmit_currents)
    if not rows:
        return None
    return float(np.interp(power_dbm, [r[0] for r in rows], [r[1] for r in rows]))


def problems_of(setting: Setting) -> list[str]:
    """Return why no radio can be set so."""
    return core.problems(radio_setting(setting))
