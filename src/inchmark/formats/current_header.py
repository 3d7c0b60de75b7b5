"""The header of a current trace: which column is time, current, supply, and in what units."""

from __future__ import annotations

import csv
import re
from collections.abc import Sequence
from dataclasses import dataclass

from inchmark.core.recipe.clock import Kind, kind_of
from inchmark.formats.errors import UnreadableFileError

PREAMBLE = 50  # lines a meter may write of itself before the header
SEPARATORS = (";", "\t", ",")
_TIME = {
    "s": 1.0, "sec": 1.0, "secs": 1.0, "second": 1.0, "seconds": 1.0,
    "ms": 1e-3, "msec": 1e-3, "milliseconds": 1e-3,
    "us": 1e-6, "µs": 1e-6, "μs": 1e-6, "usec": 1e-6, "microseconds": 1e-6,
    "ns": 1e-9,
}  # fmt: skip
_CURRENT = {
    "a": 1.0, "amp": 1.0, "amps": 1.0, "ampere": 1.0, "amperes": 1.0,
    "ma": 1e-3, "milliamps": 1e-3, "milliamperes": 1e-3,
    "ua": 1e-6, "µa": 1e-6, "μa": 1e-6, "microamps": 1e-6, "microamperes": 1e-6,
    "na": 1e-9,
}  # fmt: skip
_VOLTAGE = {"v": 1.0, "volts": 1.0, "mv": 1e-3, "uv": 1e-6, "µv": 1e-6, "μv": 1e-6}
_UNITS = {**_TIME, **_CURRENT, **_VOLTAGE}
_TIMES = ("time", "t", "timestamp")
_CURRENTS = ("current", "i", "amps")
_SUPPLIES = ("supply", "voltage", "v", "u", "vdd", "vcc", "vbat", "battery")
_SHUNTS = ("voltage", "v", "u", "shunt", "volts")
_HEADER = "Write a header like “time_s,current_mA” or, with a shunt, “time_ms,voltage_mV”."


@dataclass(frozen=True, slots=True, kw_only=True)
class Columns:
    """Where time, value and supply stand, and what a figure there is in s, A and V.

    `clock` tells that the times are times of day or dates with a time, not figures.
    """

    time: int
    value: int
    time_scale: float
    scale: float
    supply: int | None = None
    supply_scale: float = 1.0
    clock: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Header:
    """The columns, what parts them, and how many lines stand before the first sample."""

    columns: Columns
    separator: str
    lines: int


def header_of(lines: Sequence[str], shunt_ohm: float | None) -> Header:
    """Return the header of a trace's lines, none of them empty.

    A meter's own remarks may stand before it, and a line of units of its own after it.

    Raises
    ------
    UnreadableFileError
        No line names time and a current, or voltages have no shunt.
    """
    for at, line in enumerate(lines[:PREAMBLE]):
        separator = next((s for s in SEPARATORS if s in line), ",")
        head = cells_of(line, separator)
        after = [cells_of(one, separator) for one in lines[at + 1 : at + 3]]
        more = 1
        if after and _all_units(after[0]):
            head = [f"{name} {unit}" for name, unit in zip(head, after[0], strict=False)]
            after, more = after[1:], 2
        words = [_words(one) for one in head]
        time = _time(words, after[0] if after else [])
        if time is not None:
            return Header(
                columns=_columns(words, time, shunt_ohm), separator=separator, lines=at + more
            )
    raise UnreadableFileError(f"The first line names no time with its unit. {_HEADER}")


def cells_of(line: str, separator: str) -> list[str]:
    """Return the cells of a line; those in quotes may hold the separator."""
    if '"' in line:
        return next(csv.reader([line], delimiter=separator), [])
    return line.split(separator)


def _words(cell: str) -> list[str]:
    return [w for w in re.split(r"[\s_()\[\]/\",:]+", cell.strip().lower()) if w]


def _all_units(cells: Sequence[str]) -> bool:
    found = [word for cell in cells for word in _words(cell)]
    return len(found) > 1 and all(word in _UNITS for word in found)


def _time(words: list[list[str]], sample: Sequence[str]) -> tuple[int, float, bool] | None:
    """Return where time stands, what one of it is [s], and whether a clock writes it."""
    found = _find(words, _TIMES, _TIME)
    if found is not None:
        return (*found, False)
    for at, one in enumerate(words):
        cell = sample[at].strip() if at < len(sample) else ""
        if ":" in cell and set(one) & set(_TIMES) and kind_of(cell) in (Kind.FULL, Kind.CLOCK):
            return at, 1.0, True
    return None


def _columns(
    words: list[list[str]], time: tuple[int, float, bool], shunt_ohm: float | None
) -> Columns:
    at, time_scale, clock = time
    current = _find(words, _CURRENTS, _CURRENT)
    if current is not None:
        beside = _find(words, _SUPPLIES, _VOLTAGE)
        return Columns(
            time=at, value=current[0], time_scale=time_scale, scale=current[1], clock=clock,
            supply=beside[0] if beside else None, supply_scale=beside[1] if beside else 1.0,
        )  # fmt: skip
    voltage = _find(words, _SHUNTS, _VOLTAGE)
    if voltage is None:
        raise UnreadableFileError(f"The first line names no current or voltage. {_HEADER}")
    if shunt_ohm is None or not shunt_ohm > 0:
        raise UnreadableFileError("The file holds voltages: say what the shunt measures in ohms.")
    return Columns(
        time=at, value=voltage[0], time_scale=time_scale, scale=voltage[1] / shunt_ohm, clock=clock
    )


def _find(
    words: list[list[str]], names: tuple[str, ...], units: dict[str, float]
) -> tuple[int, float] | None:
    """Return the first column that begins with such a name and has a unit; else one that holds both."""
    for anywhere in (False, True):
        for at, one in enumerate(words):
            begin = next((i for i, w in enumerate(one) if w in names), None)
            if begin is None or (begin > 0 and not anywhere):
                continue
            unit = next((w for w in one[begin + 1 :] if w in units), None)
            if unit:
                return at, units[unit]
    for at, one in enumerate(words):  # “seconds”, “milliamps”
        if len(one) == 1 and len(one[0]) > 3 and one[0] in units:
            return at, units[one[0]]
    return None
