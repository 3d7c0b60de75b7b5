"""How a figure is written, and what it is then: comma or point, hex, sign, per cent, register."""

from __future__ import annotations

import re
from dataclasses import dataclass

_PLAIN = re.compile(r"[-+]?(?:\d{1,20}(?:\.\d{0,12})?|\.\d{1,12})(?:[eE][-+]?\d{1,3})?")
_COMMA = re.compile(r"[-+]?\d{1,20},\d{1,12}")
_HEX = re.compile(r"(?:0[xX])?[0-9a-fA-F]{1,16}")
_INSIDE = re.compile(r"\d{1,10}(?!.*\d)")
NOTHING = frozenset(("", "-", "--", "---", "n/a", "na", "nan", "none", "null", "?", "*", "x"))


@dataclass(frozen=True, slots=True, kw_only=True)
class Written:
    """How one part writes its figure; the value is `offset + factor * figure`.

    `inside` takes the last whole number of a text, as in “hello 12”.
    """

    hex: bool = False
    inside: bool = False
    factor: float = 1.0
    offset: float = 0.0

    def value(self, text: str) -> float | None:
        """Return the value of a text; None where nothing was measured.

        Raises
        ------
        ValueError
            The text is no such figure; the message says so.
        """
        if text.lower() in NOTHING:
            return None
        figure = self._figure(text)
        return self.offset + self.factor * figure

    def _figure(self, text: str) -> float:
        if self.inside:
            found = _INSIDE.search(text)
            if found:
                return float(found.group())
            raise ValueError(f"“{text[:40]}” holds no number")
        if self.hex or text[:2] in ("0x", "0X"):
            if _HEX.fullmatch(text):
                return float(int(text, 16))
            raise ValueError(f"“{text[:40]}” is no hexadecimal number")
        return plain_number(text)


def plain_number(text: str) -> float:
    """Return a decimal number with a point or a comma; raise ValueError with a sentence."""
    text = text.rstrip("%")
    if _PLAIN.fullmatch(text):
        return float(text)
    if _COMMA.fullmatch(text):
        return float(text.replace(",", "."))
    raise ValueError(f"“{text[:40]}” is not a number")


def is_number(text: str) -> bool:
    """Tell whether a text is a decimal number."""
    try:
        plain_number(text)
    except ValueError:
        return False
    return True


def is_hex(text: str) -> bool:
    """Tell whether a text could be a hexadecimal number of one to eight digits."""
    return 1 <= len(text.removeprefix("0x")) <= 8 and _HEX.fullmatch(text) is not None
