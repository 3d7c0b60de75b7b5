"""Settings strings as a page shows them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from inchmark.core.console.reading import (
    ModuleLimits,
    SettingDifference,
    SettingsReading,
    beyond,
    differences,
    read_string,
)
from inchmark.core.console.template import TemplateError, read_template
from inchmark.shelf.models import Module


@dataclass(frozen=True, slots=True, kw_only=True)
class Decoded:
    """A string read by a module's template: its fields, the other end's differences, or why not."""

    reading: SettingsReading | None = None
    other: SettingsReading | None = None
    differences: list[SettingDifference] | None = None
    problem: str = ""
    beyond: tuple[str, ...] = ()


def decode(module: Module, text: str, other: str = "") -> Decoded:
    """Return what a settings string says by the module's template."""
    if not module.template:
        return Decoded(problem=f"{module.name} has no settings template yet. Write one first.")
    try:
        template = read_template(module.template)
        reading = read_string(template, text)
        over = tuple(beyond(reading, module_limits(module)))
        if not other.strip():
            return Decoded(reading=reading, beyond=over)
        theirs = read_string(template, other)
    except TemplateError as wrong:
        return Decoded(problem=str(wrong))
    return Decoded(
        reading=reading, other=theirs, differences=differences(reading, theirs), beyond=over
    )


def module_limits(module: Module) -> ModuleLimits:
    """Return what a module can be set to."""
    return ModuleLimits(
        power_dbm=(module.power_low_dbm, module.power_high_dbm),
        bands_hz=tuple((float(low), float(high)) for low, high in module.bands),
    )


def suggested_name(columns: dict[str, Any]) -> str:
    """Return a name for a setting read from a string."""
    if "spreading_factor" in columns:
        kilohertz = columns.get("bandwidth_hz", 125e3) / 1e3
        return f"SF{columns['spreading_factor']} {kilohertz:.4g} kHz"
    if "bit_rate_bit_s" in columns:
        return f"{columns['bit_rate_bit_s'] / 1e3:g} kbit/s"
    return ""
