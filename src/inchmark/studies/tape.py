"""The tape across every page of a study: distances, stops, ranges, what is needed.

It knows no room: each registers a provider that hands over its marks; the scale is laid here.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Hashable, Iterable
from dataclasses import dataclass, field, replace

from inchmark.core.wording import distance
from inchmark.studies.models import Study

TAPE_START, TAPE_END = 5.0, 98.0  # per cent of the tape's width that the scale takes


NEAREST_M, FARTHEST_M = 0.05, 500_000.0  # what a tape may reach: a tag read, a link over the sea
SHORT = 3  # characters of a label that fit a marker
NO_ROOM_AFTER = 78.0  # per cent; on a phone a figure needs the rest
LABEL_TURNS_AT = 95.0  # per cent; a label after a line so near the end would be cut
# heights from the top of the drawing [px]: the strip and markers over it, a row for each range, the flag
STRIP_AND_MARKERS, ROW, FLAG_ROOM = 62, 15, 16
FLAG_WIDTH, FLAG_UP, FLAG_WORDS_DOWN, WORDS_IN = 100, 46, 11, 5


@dataclass(frozen=True, slots=True, kw_only=True)
class StopMark:
    """A numbered marker above the tape; x [per cent] is laid when the scale is known."""

    label: str
    name: str
    distance_m: float
    url: str
    current: bool = False
    x: float = 0.0

    @property
    def short(self) -> str:
        """Return the label as it fits the marker."""
        return self.label if len(self.label) <= SHORT else f"{self.label[: SHORT - 1]}…"


@dataclass(frozen=True, slots=True, kw_only=True)
class RangeMark:
    """A rig's bracket below the tape; hollow when predicted."""

    letter: str
    name: str
    url: str
    middle_m: float | None = None
    low_m: float | None = None
    high_m: float | None = None
    measured: bool = True
    x: float = 0.0
    x_low: float = 0.0
    x_high: float = 0.0
    row: int = 0

    @property
    def top(self) -> int:
        """Return how far down its row begins [px]."""
        return ROW * self.row

    @property
    def words(self) -> str:
        """Return the mark as a sentence says it."""
        if not self.middle_m:
            return f"{self.letter} {self.name} no range"
        how = "measured" if self.measured else "predicted"
        low, high = distance(self.low_m or 0.0), distance(self.high_m or 0.0)
        return f"{self.letter} {self.name} {distance(self.middle_m)} {how}, {low} to {high}"

    @property
    def words_before(self) -> bool:
        """Tell whether the figure stands before the bracket, for want of room after it."""
        return self.x_high > NO_ROOM_AFTER


@dataclass(frozen=True, slots=True, kw_only=True)
class TapeTick:
    """A line on the tape, with a label where there is room; `major` at powers of ten."""

    x: float
    label: str = ""
    major: bool = False
    minor: bool = False

    @property
    def label_x(self) -> int:
        """Return where the label begins beside the line [px]: before it near the tape's end."""
        return -4 if self.x > LABEL_TURNS_AT else 4

    @property
    def label_anchor(self) -> str:
        """Return which end of the label stands there."""
        return "end" if self.x > LABEL_TURNS_AT else "start"

    @property
    def top(self) -> int:
        """Return where its line begins, down from the strip's edge [px]."""
        if self.major:
            return 0
        return 11 if self.label else 19


@dataclass(frozen=True, slots=True, kw_only=True)
class NextMark:
    """Where to stand next: a hollow marker above the tape, and why."""

    distance_m: float
    words: str
    url: str
    x: float = 0.0


@dataclass(slots=True)
class Marks:
    """What the rooms hand over for one study."""

    stops: list[StopMark] = field(default_factory=list)
    ranges: dict[str, RangeMark] = field(
        default_factory=dict
    )  # a later room's mark replaces an earlier one's
    next: NextMark | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Flag:
    """The flag at the needed distance, from its line and the strip's edge [px]."""

    x: int
    top: int
    words_x: int
    words_y: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Tape:
    """The tape laid out: everything in per cent of its width."""

    ticks: list[TapeTick]
    stops: list[StopMark]
    ranges: list[RangeMark]
    needed_x: float | None
    needed_m: float | None
    height: int
    next: NextMark | None = None

    @property
    def _needed_before(self) -> bool:
        return self.needed_x is not None and self.needed_x > NO_ROOM_AFTER - 6

    @property
    def flag(self) -> Flag:
        """Return where the flag of the needed distance hangs: left of its line for want of room."""
        x, top = (-FLAG_WIDTH if self._needed_before else 0), self.height - FLAG_UP
        return Flag(x=x, top=top, words_x=x + WORDS_IN, words_y=top + FLAG_WORDS_DOWN)


Provider = Callable[[Study, Marks], None]
Stamp = Callable[[Study], Hashable]


_providers: list[Provider] = []
_stamps: list[Stamp] = []


def provide(provider: Provider, *, stamp: Stamp | None = None) -> None:
    """Register a room's provider; rooms register in the order of the work.

    `stamp` tells apart what it draws under one revision of a study.
    """
    if provider not in _providers:
        _providers.append(provider)
        if stamp is not None:
            _stamps.append(stamp)


def stamp_of(study: Study) -> tuple[Hashable, ...]:
    """Return what the tape depends on besides the study's revision."""
    return tuple(stamp(study) for stamp in _stamps)


def tape_of(study: Study, *, current_stop: str = "") -> Tape:
    """Return the study's tape."""
    marks = Marks()
    for provider in _providers:
        provider(study, marks)
    scale = _Scale(_extent(study, marks))
    stops = [
        replace(stop, x=scale.x(stop.distance_m), current=stop.label == current_stop)
        for stop in sorted(marks.stops, key=lambda one: one.distance_m)
    ]
    ranges = [
        _laid(mark, scale, row)
        for row, mark in enumerate(sorted(marks.ranges.values(), key=lambda m: m.letter))
    ]
    return Tape(
        ticks=scale.ticks(),
        stops=stops,
        ranges=ranges,
        needed_x=scale.x(study.needed_m) if study.needed_m else None,
        needed_m=study.needed_m,
        next=replace(marks.next, x=scale.x(marks.next.distance_m)) if marks.next else None,
        height=STRIP_AND_MARKERS + ROW * max(len(ranges), 1) + (FLAG_ROOM if study.needed_m else 0),
    )


def _laid(mark: RangeMark, scale: _Scale, row: int) -> RangeMark:
    if mark.middle_m is None or mark.low_m is None or mark.high_m is None:
        return replace(mark, row=row)
    return replace(
        mark,
        row=row,
        x=scale.x(mark.middle_m),
        x_low=scale.x(mark.low_m),
        x_high=scale.x(mark.high_m),
    )


def _extent(study: Study, marks: Marks) -> tuple[float, float]:
    shown = [stop.distance_m for stop in marks.stops]
    shown += [x for mark in marks.ranges.values() for x in (mark.low_m, mark.high_m) if x]
    shown += [study.needed_m] if study.needed_m else []
    shown = [min(max(x, NEAREST_M), FARTHEST_M) for x in shown] or [10.0, 3000.0]
    low, high = min(shown) / 2, max(shown) * 1.8
    if high / low < 30:
        high = low * 30
    return low, high


class _Scale:
    """Distance to per cent of the width, logarithmic."""

    def __init__(self, extent: tuple[float, float]) -> None:
        self.low, self.high = extent

    def x(self, metres: float) -> float:
        """Return where a distance lies, held inside the tape."""
        share = math.log(metres / self.low) / math.log(self.high / self.low)
        return round(TAPE_START + (TAPE_END - TAPE_START) * min(max(share, 0.0), 1.0), 3)

    def ticks(self) -> list[TapeTick]:
        """Return ticks at 1 to 9 of every decade, with labels at 1, 2, 3 and 5."""
        return list(self._ticks())

    def _ticks(self) -> Iterable[TapeTick]:
        decade = 10.0 ** math.floor(math.log10(self.low))
        while decade < self.high:
            for digit in range(1, 10):
                metres = digit * decade
                if self.low <= metres <= self.high:
                    label = distance(metres) if digit in (1, 2, 3, 5) else ""
                    yield TapeTick(
                        x=self.x(metres),
                        label=label,
                        major=digit == 1,
                        minor=digit not in (1, 2, 5),
                    )
            decade *= 10
