"""One chart laid out on the server: marks with limits, curves with bands, lines across, words.

Colours are classes of rigs, shapes are rigs' own; what else tells marks apart (direction, receiver,
condition) is a frame around the shape, said in a key.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from inchmark.core.reading.measured import TO_CARRIED
from inchmark.core.reading.result import VisitReading
from inchmark.core.wording import distance, link_words
from inchmark.pages.plot import Axis, PlotFrame, Tick, polyline

WIDTH, HEIGHT = 384.0, 216.0
MARGINS = (44, 26, 14, 30)  # left, right, top, bottom
LETTER_APART = 12.0
MOST_LABELS = 8
DECADE_STEPS = ((1, 2, 5), (1, 3), (1,))
# around a shape in a square of ten: nothing, ring, box, bar under, bar over, both, corners, cross
FRAMES = (
    "",
    "M5 -2A7 7 0 1 1 5 12A7 7 0 1 1 5 -2Z",
    "M-2 -2H12V12H-2Z",
    "M-2 12.5H12",
    "M-2 -2.5H12",
    "M-2 12.5H12M-2 -2.5H12",
    "M-3 1V-3H1M9 -3H13V1M13 9V13H9M1 13H-3V9",
    "M-3 5H-1M11 5H13M5 -3V-1M5 11V13",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """One visit in a chart; limits and what is beside it are None where there is none."""

    x: float
    y: float
    low: float | None
    high: float | None
    shape: str
    frame: str
    hue: str
    words: str
    url: str
    hollow: bool = False
    arrow: bool = False  # it lies below this
    aside: float | None = None  # where the mean of heard frames alone lies

    @property
    def left(self) -> float:
        """Return where its square of ten begins."""
        return round(self.x - 5, 1)

    @property
    def top(self) -> float:
        """Return how far down its square of ten begins."""
        return round(self.y - 5, 1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """A curve with its band, and the letter at its end."""

    hue: str
    path: str
    band: str
    letter: str
    x: float
    y: float


class Across(NamedTuple):
    """A line across the chart with its words, above or below it."""

    y: float
    words: str
    below: bool = False

    @property
    def words_y(self) -> float:
        """Return the words' baseline."""
        return self.y + (13 if self.below else -4)


class Said(NamedTuple):
    """Words at a place."""

    x: float
    y: float
    words: str
    anchor: str = "middle"


@dataclass(frozen=True, slots=True, kw_only=True)
class Chart:
    """A chart laid out."""

    key: str
    title: str
    under: str
    frame: PlotFrame
    marks: tuple[Mark, ...] = ()
    lines: tuple[Line, ...] = ()
    across: tuple[Across, ...] = ()
    said: tuple[Said, ...] = ()
    empty: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class KeyRow:
    """What a frame around a mark stands for."""

    frame: str
    words: str


def frame_of(x: Axis, x_ticks: Sequence[Tick], y_ticks: Sequence[Tick]) -> PlotFrame:
    """Return the frame of a chart."""
    return PlotFrame(WIDTH, HEIGHT, *MARGINS, x_ticks=tuple(x_ticks), y_ticks=tuple(y_ticks))


def distance_axis(distances_m: Sequence[float]) -> Axis:
    """Return the axis over distances, by decades, with room at both ends."""
    low, high = 0.8 * min(distances_m), 1.6 * max(distances_m)
    return Axis(low=low, high=high, start=0, end=WIDTH, logarithmic=True)


def distance_ticks(x: Axis) -> tuple[Tick, ...]:
    """Return labels that fit: 1, 2, 5 of each decade, or fewer where there are many decades."""
    for steps in DECADE_STEPS:
        values = [
            float(step * 10.0**decade)
            for decade in range(-2, 7)
            for step in steps
            if x.low <= step * 10.0**decade <= x.high
        ]
        if len(values) <= MOST_LABELS:
            break
    return x.ticks(values, distance)


def spread_letters(lines: Sequence[Line]) -> tuple[Line, ...]:
    """Return curves with the letters at their ends apart from each other, above the axis."""
    floor, found = HEIGHT - 4, []
    for line in sorted(lines, key=lambda one: -one.y):
        at = min(line.y, floor)
        floor = at - LETTER_APART
        found.append(replace(line, y=round(at, 1)))
    return tuple(found)


def band_of(x: Axis, y: Axis, rows: Sequence[tuple[float, float, float, float]]) -> tuple[str, str]:
    """Return the curve and the band around it as SVG paths; rows are distance, value, low, high."""
    curve = "M" + polyline((x.at(d), y.at(value)) for d, value, _, _ in rows)
    over = polyline((x.at(d), y.at(high)) for d, _, _, high in rows)
    under = polyline((x.at(d), y.at(low)) for d, _, low, _ in reversed(rows))
    return curve, f"M{over}L{under}Z"


class Framing:
    """Gives each link and condition a frame of its own, in the order they are met."""

    def __init__(self, visits: Sequence[VisitReading], reference: str) -> None:
        """Take the visits that will be drawn."""
        self.reference = reference
        counted = Counter(map(self._kind, visits))
        self.kinds = sorted(
            counted,
            key=lambda kind: (kind[2] != reference, kind[0] == TO_CARRIED, -counted[kind], kind),
        )

    def _kind(self, visit: VisitReading) -> tuple[str, str, str]:
        return visit.direction, visit.receiver, visit.condition

    def frame(self, visit: VisitReading) -> str:
        """Return the frame around a visit's mark."""
        place = self.kinds.index(self._kind(visit))
        return FRAMES[min(place, len(FRAMES) - 1)]

    def key(self) -> list[KeyRow]:
        """Return what the frames stand for; nothing where all marks are of one kind."""
        if len(self.kinds) < 2:
            return []
        rows = []
        for place, (direction, receiver, condition) in enumerate(self.kinds):
            parts = [link_words(direction, receiver), condition]
            words = ", ".join(part for part in parts if part) or "as usual"
            rows.append(KeyRow(frame=FRAMES[min(place, len(FRAMES) - 1)], words=words))
        return rows
