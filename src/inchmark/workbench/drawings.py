"""A range on a short tape: a hollow bracket, as every predicted range."""

from __future__ import annotations

import math
from typing import NamedTuple

from inchmark.core.wording import distance

WIDTH = 640.0


class Tick(NamedTuple):
    """A distance on the tape."""

    x: float
    words: str


class ReachTape(NamedTuple):
    """A tape from a decade below the range to a decade above it."""

    ticks: tuple[Tick, ...]
    low_x: float
    middle_x: float
    high_x: float
    words: str


def reach_tape(low_m: float, middle_m: float, high_m: float) -> ReachTape:
    """Return a tape on which a range [m] stands in the middle."""
    first = math.floor(math.log10(max(low_m, 0.1)) - 0.5)
    last = max(math.ceil(math.log10(max(high_m, 0.2)) + 0.3), first + 2)

    def at(metres: float) -> float:
        share = (math.log10(max(metres, 10.0**first)) - first) / (last - first)
        return round(WIDTH * min(share, 1.0), 1)

    steps = [m * 10.0**k for k in range(first, last) for m in (1, 2, 5)]
    return ReachTape(
        ticks=tuple(Tick(at(step), distance(step)) for step in steps),
        low_x=at(low_m),
        middle_x=at(middle_m),
        high_x=at(high_m),
        words=f"{distance(low_m)} to {distance(high_m)}, typically {distance(middle_m)}",
    )
