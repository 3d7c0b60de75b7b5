"""The value of a part by its use: what is decided once for a part, not once for a line."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from inchmark.core.recipe.names import NO, YES, Meaning
from inchmark.core.recipe.numbers import Written
from inchmark.core.recipe.parts import Part
from inchmark.core.recipe.payload import read_counter
from inchmark.core.recipe.recipe import TEXTS, Use

BOUNDS = {
    Meaning.SEQ: (0, 2**32 - 1), Meaning.RSSI: (-200, 60), Meaning.SNR: (-80, 160),
    Meaning.NOISE: (-200, 60), Meaning.HOPS: (0, 255), Meaning.LAT: (-90, 90),
    Meaning.LON: (-180, 180), Meaning.DISTANCE: (0, 1e7),
    Meaning.HDOP: (0, 1000), Meaning.SATELLITES: (0, 200),
}  # fmt: skip
LONGEST_TEXT = 60
Value = Callable[[Part], Any]


def value_by(use: Use) -> tuple[Meaning, Value]:
    """Return what a part gives and how: a value, None for nothing, or ValueError with a sentence."""
    counter = use.counter
    if counter is not None:
        return Meaning.SEQ, lambda part: read_counter(part.text, counter)
    if use.meaning in BOUNDS:
        return use.meaning, _figure(use)
    if use.meaning in TEXTS:
        return use.meaning, lambda part: part.text[:LONGEST_TEXT]
    if use.meaning in (Meaning.HEARD, Meaning.ACK, Meaning.CRC):
        return use.meaning, _switch
    return use.meaning, lambda _: None


def _switch(part: Part) -> bool | None:
    word = part.text.lower()
    return True if word in YES else False if word in NO else None


def _figure(use: Use) -> Value:
    meaning, written = use.meaning, use.written
    low, high = BOUNDS[meaning]
    plain, whole = written == Written(), meaning is Meaning.SEQ

    def value(part: Part) -> Any:
        text = part.text
        # digits at both ends leave nothing that float reads and a log does not mean, like "nan"
        if (
            plain
            and text[-1:].isdigit()
            and text.isascii()
            and "_" not in text
            and text[:2] != "0x"
        ):
            try:
                found: float | None = float(text)
            except ValueError:
                found = written.value(text)
        else:
            found = written.value(text)
        if found is None:
            return None
        if not low <= found <= high:
            raise ValueError(f"{meaning} is {text}; it must be from {low:g} to {high:g}")
        if part.unit == "km" and meaning is Meaning.DISTANCE:
            found *= 1000
        return int(found) if whole else found

    return value
