"""The columns of a setting that a settings string fills."""

from __future__ import annotations

from typing import Any

from inchmark.core.console.reading import SettingsReading

_COLUMNS = {
    "sf": "spreading_factor",
    "bw": "bandwidth_hz",
    "cr": "coding_rate",
    "preamble": "preamble",
    "power": "power_dbm",
    "frequency": "frequency_hz",
    "payload": "payload_bytes",
    "bitrate": "bit_rate_bit_s",
    "deviation": "deviation_hz",
    "header": "explicit_header",
    "crc": "payload_crc",
    "ldro": "low_data_rate",
}


_WHOLE = ("spreading_factor", "coding_rate", "preamble", "payload_bytes")


_FLAGS = ("explicit_header", "payload_crc", "low_data_rate")


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
