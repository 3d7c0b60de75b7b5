"""Settings strings as a page shows them, and the columns of a setting they fill."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from inchmark.core.console.reading import Difference, SettingsReading, differences, read_string
from inchmark.core.console.template import TemplateError, read_template
from inchmark.shelf.models import Module

_COLUMNS = {
    "sf": "spreading_factor", "bw": "bandwidth_hz", "cr": "coding_rate", "preamble": "preamble",
    "power": "power_dbm", "frequency": "frequency_hz", "payload": "payload_bytes",
    "bitrate": "bit_rate_bit_s", "deviation": "deviation_hz", "header": "explicit_header",
    "crc": "payload_crc", "ldro": "low_data_rate",
}  # fmt: skip
_WHOLE = ("spreading_factor", "coding_rate", "preamble", "payload_bytes")
_FLAGS = ("explicit_header", "payload_crc", "low_data_rate")


@dataclass(frozen=True, slots=True, kw_only=True)
class Decoded:
    """A string read by a module's template: its fields, the other end's differences, or why not."""

    reading: SettingsReading | None = None
    other: SettingsReading | None = None
    differences: list[Difference] | None = None
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


def columns_of(reading: SettingsReading) -> dict[str, Any]:
    """Return the columns of a setting that a string fills."""
    values = reading.values
    found: dict[str, Any] = {
        column: values[key] for key, column in _COLUMNS.items() if key in values
    }
    for column in found:
        if column in _WHOLE:
            found[column] = int(found[column])
        if column in _FLAGS:
            found[column] = bool(found[column])
    if "sync" in values:
        found["sync_word"] = f"0x{int(values['sync']):02X}"
    found["modulation"] = "gfsk" if "bitrate" in values and "sf" not in values else "chirp"
    return found


def suggested_name(columns: dict[str, Any]) -> str:
    """Return a name for a setting read from a string."""
    if "spreading_factor" in columns:
        kilohertz = columns.get("bandwidth_hz", 125e3) / 1e3
        return f"SF{columns['spreading_factor']} {kilohertz:.4g} kHz"
    if "bit_rate_bit_s" in columns:
        return f"{columns['bit_rate_bit_s'] / 1e3:g} kbit/s"
    return ""
