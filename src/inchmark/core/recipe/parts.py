"""The parts of a line: what a value is called there, as written, and its unit."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

JSON, CELLS, WORDS, POSITION = "JSON", "cells", "words", "NMEA"
MOST_PARTS = 200
# parts whose text says what a line tells of, like `evt=tx_done`
EVENTS = frozenset(
    [
        "event",
        "evt",
        "ev",
        "type",
        "kind",
        "op",
        "dir",
        "direction",
        "state",
        "status",
        "what",
        "action",
    ]
)
UNITS = {
    "dbm": "dBm", "db": "dB", "%": "%", "ms": "ms", "s": "s", "us": "us", "µs": "us", "v": "V",
    "mv": "mV", "c": "°C", "°c": "°C", "m": "m", "km": "km", "mhz": "MHz", "khz": "kHz", "hz": "Hz",
    "bytes": "bytes", "byte": "bytes", "ma": "mA", "sec": "s",
}  # fmt: skip


NUMBER = re.compile(
    r"[-+]?(?:0[xX][0-9a-fA-F]{1,16}|\d{1,20}(?:[.,]\d{1,12})?(?:[eE][-+]?\d{1,3})?)%?"
)


class Part(NamedTuple):
    """One value of a line: what it is called there, as written, the unit behind it, where it begins.

    `at` is -1 where the text does not stand in the line letter for letter.
    """

    name: str
    text: str
    unit: str = ""
    at: int = -1


@dataclass(frozen=True, slots=True)
class Pieces:
    """A line taken apart; `words` are those that are no values, in small letters."""

    form: str
    parts: tuple[Part, ...]
    words: frozenset[str] = frozenset()
    stamp: str = ""
    delimiter: str = ""

    def first(self, name: str) -> Part | None:
        """Return the part of a name."""
        return next((part for part in self.parts if part.name == name), None)


def told_by(parts: Sequence[Part]) -> frozenset[str]:
    """Return the words of parts that say what a line tells of."""
    found = (part.text for part in parts if part.name.lower() in EVENTS)
    return frozenset(word for text in found for word in re.findall(r"[a-z]+", text.lower()))
