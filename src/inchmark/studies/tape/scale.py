"""The tape's scale: distance to per cent of its width, logarithmic, and the lines on it."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from inchmark.core.wording import distance, round_steps

STARTS, ENDS = 5.0, 98.0  # per cent of the tape's width that the scale takes
NEAREST_M, FARTHEST_M = 0.05, 500_000.0  # what a tape may reach: a tag read, a link over the sea
USUAL_M = (10.0, 3000.0)  # while nothing is on it
LEAST_FACTOR = 30.0  # from its near end to its far one
DIGITS = (1, 2, 5, 3)  # labelled while there is room, in this order
LETTER, BESIDE, APART = 6.4, 4.0, 8.0  # a label's letter, from its line, from the next [px]
ROOM_FOR_LINES = 90.0  # px a decade takes for all its nine lines


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """A line on the tape, with a label where there is room; `major` at powers of ten."""

    x: float
    label: str = ""
    major: bool = False
    before: bool = False  # the label stands before the line, for want of room after it

    @property
    def label_x(self) -> float:
        """Return where the label begins or ends beside the line [px]."""
        return -BESIDE if self.before else BESIDE

    @property
    def label_anchor(self) -> str:
        """Return which end of the label stands there."""
        return "end" if self.before else "start"

    @property
    def top(self) -> int:
        """Return where its line begins, down from the strip's edge [px]."""
        if self.major:
            return 0
        return 11 if self.label else 19


@dataclass(frozen=True, slots=True)
class Scale:
    """From `low` to `high` [m]."""

    low: float
    high: float

    @classmethod
    def over(cls, shown_m: list[float]) -> Scale:
        """Return the scale that holds some distances [m] with room at both ends."""
        shown = [min(max(x, NEAREST_M), FARTHEST_M) for x in shown_m] or list(USUAL_M)
        low, high = min(shown) / 2, max(shown) * 1.8
        return cls(low, max(high, low * LEAST_FACTOR))

    def x(self, metres: float) -> float:
        """Return where a distance lies [per cent], held inside the tape."""
        share = math.log(metres / self.low) / math.log(self.high / self.low)
        return round(STARTS + (ENDS - STARTS) * min(max(share, 0.0), 1.0), 3)

    def ticks(self, width: float) -> list[Tick]:
        """Return the lines of a tape so wide [px], labelled as far as labels keep apart."""
        digits = [(metres, digit) for metres, digit in self._digits()]
        spans: list[tuple[float, float]] = []
        found: dict[float, Tick] = {}
        for wanted in DIGITS:
            for metres, digit in digits:
                if digit == wanted:
                    tick, span = self._labelled(metres, width, major=digit == 1)
                    if all(span[1] + APART < low or span[0] > high + APART for low, high in spans):
                        spans.append(span)
                        found[metres] = tick
        all_lines = self._decade(width) >= ROOM_FOR_LINES
        for metres, digit in digits:
            if metres not in found and (all_lines or digit == 1):
                found[metres] = Tick(x=self.x(metres), major=digit == 1)
        return [found[metres] for metres in sorted(found)]

    def _decade(self, width: float) -> float:
        """Return how wide a decade is [px]."""
        return (ENDS - STARTS) / 100 * width / math.log10(self.high / self.low)

    def _digits(self) -> Iterator[tuple[float, int]]:
        for unit, first, last in round_steps():
            power = math.floor(math.log10(self.low / unit))
            while 10.0**power * unit < self.high:
                for digit in range(1, 10):
                    metres = digit * 10.0**power * unit
                    if max(self.low, first) <= metres <= min(self.high, last):
                        yield metres, digit
                power += 1

    def _labelled(
        self, metres: float, width: float, *, major: bool
    ) -> tuple[Tick, tuple[float, float]]:
        """Return a line with its label, and from where to where the label goes [px]."""
        label, x = distance(metres), self.x(metres)
        at, long = x / 100 * width, LETTER * len(label)
        before = at + BESIDE + long > width
        span = (at - BESIDE - long, at - BESIDE) if before else (at + BESIDE, at + BESIDE + long)
        return Tick(x=x, label=label, major=major, before=before), span
