"""Lines of one shape, taken apart once: lines that differ in their digits alone have the same parts.

Two lines that are equal once every digit is a nought have the same words, keys and places, so what
was found in one tells where to look in all. That makes long logs several times faster; a line whose
parts do not stand in it letter for letter (JSON, quotes), or whose names hold digits, is taken apart
by itself.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import NamedTuple

from inchmark.core.recipe.parts import Part, Pieces

MOST_SHAPES = 4_096
_NOUGHTS = str.maketrans("123456789", "000000000")
_COUNTED = re.compile(r"\[\d+\]$|/\d+")


class _Slot(NamedTuple):
    name: str
    start: int
    end: int
    unit: str


class _Shape(NamedTuple):
    pieces: Pieces  # of the first line of its kind
    slots: tuple[_Slot, ...]
    stamp: tuple[int, int, str, str]  # where the moment stands, what stands before and behind it

    def read(self, text: str) -> Pieces:
        parts = tuple([Part(s.name, text[s.start : s.end], s.unit, s.start) for s in self.slots])
        start, end, before, behind = self.stamp
        one = self.pieces
        stamp = f"{before}{text[start:end]}{behind}" if end else ""
        return Pieces(one.form, parts, one.words, stamp, one.delimiter)


class Shapes:
    """Takes lines apart, the shapes seen before by where their parts stood."""

    def __init__(self, take: Callable[[str], list[Pieces]], *, wanted: set[str]) -> None:
        self.take, self.wanted = take, wanted
        self.known: dict[str, _Shape | None] = {}

    def taken(self, text: str) -> list[Pieces]:
        """Return a plain line taken apart."""
        key = text.translate(_NOUGHTS)
        if key in self.known:
            shape = self.known[key]
            # 0x is the one place where it matters which digit stands there
            if shape is None or (
                "0x" in key.lower() and key.count("0") and _hex_differs(key, text)
            ):
                return self.take(text)
            return [shape.read(text)]
        found = self.take(text)
        if len(self.known) < MOST_SHAPES:
            self.known[key] = _shape_of(text, found, self.wanted)
        return found


def _hex_differs(key: str, text: str) -> bool:
    return key.lower().count("0x") != text.lower().count("0x")


def _shape_of(text: str, found: list[Pieces], wanted: set[str]) -> _Shape | None:
    if len(found) != 1:
        return None
    one = found[0]
    slots = tuple(_Slot(p.name, p.at, p.at + len(p.text), p.unit) for p in one.parts)
    stands = all(
        slot.start >= 0
        and text[slot.start : slot.end] == part.text
        and not any(c.isdigit() for c in _COUNTED.sub("", slot.name))
        for slot, part in zip(slots, one.parts, strict=True)
    )
    stamp = _stamp_of(text, one.stamp)
    # the first part tells what a damaged line began like; of the rest, those the recipe uses
    slots = tuple(slot for i, slot in enumerate(slots) if i == 0 or slot.name in wanted)
    return _Shape(one, slots, stamp) if stands and stamp is not None else None


def _stamp_of(text: str, stamp: str) -> tuple[int, int, str, str] | None:
    if not stamp:
        return 0, 0, "", ""
    before = "+" if stamp.startswith("+") else ""
    bare = stamp[len(before) :]
    unit = re.sub(r"[^a-zµ]", "", bare) if before else ""
    figures = bare.removesuffix(unit)
    start = text.find(figures)
    return None if start < 0 else (start, start + len(figures), before, unit)
