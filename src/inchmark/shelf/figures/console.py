"""Settings strings as a page shows them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from inchmark.core.console.reading import (
    SettingDifference,
    SettingsReading,
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


def decode(module: Module, text: str, other: str = "") -> Decoded:
    """Return what a settings string says by the module's template."""
    if not module.template:
        return Decoded(problem=f"{module.name} has no settings template yet. Write one first.")
    try:
        template = read_template(module.template)
        reading = read_string(template, text)
        if not other.strip():
            return Decoded(reading=reading)
        theirs = read_string(template, other)
    except TemplateError as wrong:
        return Decoded(problem=str(wrong))
    return Decoded(reading=reading, other=theirs, differences=differences(reading, theirs))


def suggested_name(columns: dict[str, Any]) -> str:
    """Return a name for a setting read from a string."""
    if "spreading_factor" in columns:
        kilohertz = columns.get("bandwidth_hz", 125e3) / 1e3
        return f"SF{columns['spreading_factor']} {kilohertz:.4g} kHz"
    if "bit_rate_bit_s" in columns:
        return f"{columns['bit_rate_bit_s'] / 1e3:g} kbit/s"
    return ""
