"""Current traces: CSV of time and current, or of time and the voltage over a shunt."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from inchmark.formats.errors import UnreadableFileError

LARGEST_ROWS = 2_000_000
HEAD_ROWS = 1_000  # a header, remarks and empty lines do not count as samples
LONGEST_LINE = 4_000  # characters; a row is two numbers and what a logger adds
_TIME = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "μs": 1e-6, "ns": 1e-9}
_CURRENT = {"a": 1.0, "ma": 1e-3, "ua": 1e-6, "µa": 1e-6, "μa": 1e-6, "na": 1e-9}
_VOLTAGE = {"v": 1.0, "mv": 1e-3, "uv": 1e-6, "µv": 1e-6, "μv": 1e-6}
_HEADER = "Write a header like “time_s,current_mA” or, with a shunt, “time_ms,voltage_mV”."


@dataclass(frozen=True, slots=True)
class CurrentFile:
    """Times [s] and currents [A], one shape; supply voltages [V] of the same shape where it has them."""

    time_s: NDArray[np.float64]
    current_a: NDArray[np.float64]
    supply_v: NDArray[np.float64] | None = None


def read_current(data: bytes, *, shunt_ohm: float | None = None) -> CurrentFile:
    """Return the samples of a CSV file with a header that names quantities and units.

    Raises
    ------
    UnreadableFileError
        The file is empty, has no such header, lacks the shunt, or a row is not two numbers; the
        message names the line.
    """
    if data.count(b"\n") > LARGEST_ROWS + HEAD_ROWS:  # before they are parted
        raise UnreadableFileError(f"The file has over {LARGEST_ROWS:,} rows. Export fewer samples.")
    lines = [
        (number, line)
        for number, line in enumerate(_text(data).splitlines(), start=1)
        if line.strip() and not line.lstrip().startswith("#")
    ]
    if not lines:
        raise UnreadableFileError("The file is empty: there is no sample in it.")
    longest = max(lines, key=lambda one: len(one[1]))
    if len(longest[1]) > LONGEST_LINE:
        raise UnreadableFileError(
            f"Line {longest[0]} is {len(longest[1]):,} characters long, which is no sample. Export the trace as CSV, one sample a line."
        )
    if len(lines) > LARGEST_ROWS:
        raise UnreadableFileError(f"The file has over {LARGEST_ROWS:,} rows. Export fewer samples.")
    separator = next((s for s in (";", "\t", ",") if s in lines[0][1]), ",")
    at = _columns(lines[0][1].split(separator), shunt_ohm)
    if len(lines) == 1:
        raise UnreadableFileError("The file has a header and no sample under it.")
    rows = [_row(number, line.split(separator), at, line) for number, line in lines[1:]]
    samples = np.array(rows, dtype=np.float64)
    return CurrentFile(
        time_s=samples[:, 0] * at.time_scale,
        current_a=samples[:, 1] * at.scale,
        supply_v=None if at.supply is None else samples[:, 2] * at.supply_scale,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Columns:
    time: int
    value: int
    time_scale: float
    scale: float
    supply: int | None = None
    supply_scale: float = 1.0


def _text(data: bytes) -> str:
    if b"\x00" in data[:4096]:
        raise UnreadableFileError("The file is not text. Export the trace as CSV.")
    return data.decode("utf-8-sig", errors="replace")


def _columns(header: list[str], shunt_ohm: float | None) -> _Columns:
    words = [[w for w in re.split(r"[\s_()\[\]/\"]+", one.strip().lower()) if w] for one in header]
    time = _find(words, ("time", "t", "timestamp"), _TIME)
    if time is None:
        raise UnreadableFileError(f"The first line names no time with its unit. {_HEADER}")
    current = _find(words, ("current", "i", "amps"), _CURRENT)
    if current is not None:
        beside = _find(
            words, ("supply", "voltage", "v", "u", "vdd", "vcc", "vbat", "battery"), _VOLTAGE
        )
        return _Columns(
            time=time[0], value=current[0], time_scale=time[1], scale=current[1],
            supply=beside[0] if beside else None, supply_scale=beside[1] if beside else 1.0,
        )  # fmt: skip
    voltage = _find(words, ("voltage", "v", "u", "shunt", "volts"), _VOLTAGE)
    if voltage is None:
        raise UnreadableFileError(f"The first line names no current or voltage. {_HEADER}")
    if shunt_ohm is None or not shunt_ohm > 0:
        raise UnreadableFileError("The file holds voltages: say what the shunt measures in ohms.")
    return _Columns(
        time=time[0], value=voltage[0], time_scale=time[1], scale=voltage[1] / shunt_ohm
    )


def _find(
    words: list[list[str]], names: tuple[str, ...], units: dict[str, float]
) -> tuple[int, float] | None:
    for at, one in enumerate(words):
        unit = next((w for w in one[1:] if w in units), None)
        if one and one[0] in names and unit:
            return at, units[unit]
    return None


def _row(number: int, tokens: list[str], at: _Columns, line: str) -> tuple[float, ...]:
    columns = (at.time, at.value) if at.supply is None else (at.time, at.value, at.supply)
    try:
        pair = tuple(float(tokens[column]) for column in columns)
    except (ValueError, IndexError):
        raise UnreadableFileError(
            f"Line {number}, “{line.strip()[:60]}”, is not {'two' if len(columns) == 2 else 'three'} numbers. Mend it and bring the file again."
        ) from None
    if not all(map(math.isfinite, pair)):
        raise UnreadableFileError(
            f"Line {number}, “{line.strip()[:60]}”, holds no finite number (NaN or infinity). Take the line out, or export again."
        )
    return pair
