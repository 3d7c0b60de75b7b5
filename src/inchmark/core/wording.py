"""How figures read in sentences: true minus, unit one space after, three figures for distances."""

from __future__ import annotations

import math
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar

FOOT_M, INCH_M, MILE_M = 0.3048, 0.0254, 1609.344
_feet: ContextVar[bool] = ContextVar("feet", default=False)  # how who reads wants distances

MINUS = "\N{MINUS SIGN}"


def number(value: float, digits: int = 1, *, sign: bool = False) -> str:
    """Return a number with a true minus sign; `sign` shows a plus too."""
    text = f"{abs(value):.{digits}f}"
    if float(text) == 0:
        return text
    if value < 0:
        return MINUS + text
    return "+" + text if sign else text


def decibels(value: float, *, sign: bool = True) -> str:
    """Return a level difference, like "+4.2 dB"."""
    return f"{number(value, 1, sign=sign)} dB"


def level(value: float) -> str:
    """Return a level, like "\N{MINUS SIGN}104.9 dBm"."""
    return f"{number(value)} dBm"


def distance(metres: float) -> str:
    """Return a distance [m] with three figures at most: mm below 10 cm, cm below 1 m, km from 1 km."""
    if math.isinf(metres):
        return "any distance"
    if _feet.get():
        return _in_feet(metres)
    if metres >= 99_950:
        return f"{metres / 1000:.0f} km"
    if metres >= 999.5:
        return f"{_three_figures(metres / 1000)} km"
    if metres >= 0.9995:
        return f"{_three_figures(metres)} m"
    if metres >= 0.09995:
        return f"{_three_figures(metres * 100)} cm"
    return f"{_three_figures(metres * 1000)} mm" if metres > 0 else "0 m"


def _in_feet(metres: float) -> str:
    """Return a distance [m] in inches below a foot, feet below a mile, miles from there on."""
    if metres >= MILE_M * 0.9995:
        return f"{_three_figures(metres / MILE_M)} mi"
    if metres >= FOOT_M * 0.9995:
        return f"{_three_figures(metres / FOOT_M)} ft"
    return f"{_three_figures(metres / INCH_M)} in" if metres > 0 else "0 ft"


@contextmanager
def distances_in_feet(*, on: bool) -> Iterator[None]:
    """Let distances read in feet and miles while this lasts, in this context alone."""
    token = _feet.set(on)
    try:
        yield
    finally:
        _feet.reset(token)


def round_steps() -> list[tuple[float, float, float]]:
    """Return the units round distances are round in: its length, from where and to where [m]."""
    if _feet.get():
        return [(FOOT_M, 0.0, MILE_M * 0.9), (MILE_M, MILE_M * 0.9, math.inf)]
    return [(1.0, 0.0, math.inf)]


def _three_figures(value: float) -> str:
    if value <= 0:
        return "0"
    decimals = max(2 - math.floor(math.log10(value) + 1e-12), 0)
    text = f"{value:.{decimals}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def duration(seconds: float) -> str:
    """Return a time [s] as people say it: 15 min, 2 h, 1.5 s."""
    for size, name in ((86_400, "d"), (3600, "h"), (60, "min")):
        if seconds >= size and seconds % size == 0:
            return f"{seconds / size:g} {name}"
    return f"{seconds:g} s"


def percent(share: float) -> str:
    """Return a share as whole per cent; a share that is not quite all or nothing says so."""
    if 0 < share < 0.005:
        return "under 1 %"
    if 0.995 < share < 1:
        return "over 99 %"
    return f"{100 * share:.0f} %"


def plural(count: int, noun: str) -> str:
    """Return "1 frame", "2 frames"."""
    return f"{count:,} {noun}{'' if count == 1 else 's'}".replace(",", "\N{NARROW NO-BREAK SPACE}")


def listed(names: list[str]) -> str:
    """Return "A", "A and B", "A, B and C"."""
    if len(names) < 2:
        return "".join(names)
    return f"{', '.join(names[:-1])} and {names[-1]}"


def direction_words(direction: str) -> str:
    """Return a direction as words that follow a noun: "to the fixed end"."""
    known = {
        "to_fixed": "to the fixed end",
        "to_carried": "to the carried end",
        "replies": "as replies",
    }
    return known.get(direction, direction)


def link_words(direction: str, receiver: str) -> str:
    """Return direction and receiver of a link in words, empty where there is only one."""
    at = f"at {receiver}" if receiver else ""
    return ", ".join(part for part in (direction_words(direction), at) if part)
