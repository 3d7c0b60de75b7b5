"""The tape laid out for a width: what is near stands together, and no line goes through a name.

Everything is in per cent of the width with offsets in pixels, so that one layout serves every
window at least as wide as the one it was made for.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from inchmark.core.wording import distance
from inchmark.studies.models import Study
from inchmark.studies.tape.marks import Marks, NextMark, RangeMark, StopMark, marks_of
from inchmark.studies.tape.scale import Scale, Tick

WIDE_PX, NARROW_PX, MINIATURE_PX = 760.0, 350.0, 260.0
# heights from the top of the drawing [px]: the strip and markers over it, a range's row, the flag
STRIP_AND_MARKERS, ROW, STACKED_ROW, FLAG_ROOM = 62, 15, 28, 16
MARKER_PX, CROWD_PX = 18.0, 30.0  # room that a marker takes, and one that stands for several
SHORT = 3  # characters of a label that fit a marker
NAME_FROM, DOT, NAME_LETTER, FIGURE_LETTER, CLEAR = 12.0, 12.0, 6.2, 7.1, 7.0  # px
FLAG_LETTER, FLAG_PAD, FLAG_UP = 6.0, 10.0, 46
MINI_STRIP, MINI_ROW = 30, 11
LEAST_NAME = 6  # letters a name keeps when it must be shortened


@dataclass(frozen=True, slots=True, kw_only=True)
class Crowd:
    """Stops that share a marker, for want of room between them; mostly one."""

    stops: tuple[StopMark, ...]
    x: float
    current: bool

    @property
    def short(self) -> str:
        """Return what the marker says: a stop's label, or how many there are."""
        if len(self.stops) > 1:
            return f"×{len(self.stops)}"
        label = self.stops[0].label
        return label if len(label) <= SHORT else f"{label[: SHORT - 1]}…"

    @property
    def words(self) -> str:
        """Return the marker as a sentence says it."""
        if len(self.stops) > 1:
            near, far = (distance(one.distance_m) for one in (self.stops[0], self.stops[-1]))
            labels = ", ".join(one.label for one in self.stops)
            return f"{len(self.stops)} stops from {near} to {far}: {labels}"
        one = self.stops[0]
        return ", ".join(filter(None, (f"Stop {one.label}", one.name, distance(one.distance_m))))

    @property
    def half(self) -> float:
        """Return half the marker's width [px]."""
        return 8.0 if len(self.stops) == 1 else 14.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A rig's row: its bracket, its name, and its figure beside the bracket or after the name."""

    mark: RangeMark
    top: float
    x: float = 0.0
    x_low: float = 0.0
    x_high: float = 0.0
    was_x: float | None = None
    name: str = ""
    name_x: float = 0.0  # per cent; the sign stands there, the name after it
    figure_before: bool = False
    stacked: bool = False
    number: int = 0

    @property
    def mini_y(self) -> float:
        """Return where the bracket runs in a miniature [px]."""
        return MINI_STRIP + MINI_ROW * self.number

    @property
    def bar_y(self) -> float:
        """Return where the bracket runs [px]."""
        return self.top + (20 if self.stacked else 5)


@dataclass(frozen=True, slots=True, kw_only=True)
class Flag:
    """The needed distance: where its line runs [per cent], and its flag from there [px]."""

    x: float
    words: str
    width: float
    before: bool
    top: int

    @property
    def left(self) -> float:
        """Return where the flag begins, from its line [px]."""
        return -self.width if self.before else 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Layout:
    """A tape for a width."""

    ticks: list[Tick]
    crowds: list[Crowd]
    rows: list[Row]
    flag: Flag | None
    next_x: float | None
    height: float

    @property
    def mini_height(self) -> float:
        """Return how high a miniature is [px]."""
        return MINI_STRIP + MINI_ROW * max(len(self.rows), 1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Tape:
    """All that stands on a study's tape, and its scale."""

    stops: list[StopMark]
    ranges: list[RangeMark]
    needed_m: float | None
    next: NextMark | None
    scale: Scale
    current_stop: str = ""

    def laid(self, width: float) -> Layout:
        """Return the tape laid out for windows at least so wide [px]."""
        flag = _flag(self, width)
        rows = _rows(self, flag, width)
        height = STRIP_AND_MARKERS + sum(STACKED_ROW if one.stacked else ROW for one in rows)
        if flag is not None:
            flag = replace(flag, top=int(height + FLAG_ROOM) - FLAG_UP)
        return Layout(
            ticks=self.scale.ticks(width),
            crowds=_crowds(self, width),
            rows=rows,
            flag=flag,
            next_x=self.scale.x(self.next.distance_m) if self.next else None,
            height=max(height, STRIP_AND_MARKERS + ROW) + (FLAG_ROOM if flag else 0),
        )

    @property
    def wide(self) -> Layout:
        """Return the layout for a desk."""
        return self.laid(WIDE_PX)

    @property
    def narrow(self) -> Layout:
        """Return the layout for a phone."""
        return self.laid(NARROW_PX)

    @property
    def miniature(self) -> Layout:
        """Return the layout for a line in a list."""
        return self.laid(MINIATURE_PX)


def tape_of(study: Study, *, current_stop: str = "", tried: RangeMark | None = None) -> Tape:
    """Return a study's tape; `tried` is a rig's range with a change, in place of its own."""
    marks = marks_of(study)
    if tried is not None:
        marks.ranges[tried.letter] = tried
    return Tape(
        stops=marks.stops,
        ranges=list(marks.ranges.values()),
        needed_m=study.needed_m,
        next=marks.next,
        scale=Scale.over(_shown(study, marks)),
        current_stop=current_stop,
    )


def _shown(study: Study, marks: Marks) -> list[float]:
    shown = [stop.distance_m for stop in marks.stops]
    shown += [x for mark in marks.ranges.values() for x in (mark.low_m, mark.high_m) if x]
    return shown + ([study.needed_m] if study.needed_m else [])


def _crowds(tape: Tape, width: float) -> list[Crowd]:
    """Return the stops, those whose markers would cover each other together."""
    found: list[list[StopMark]] = []
    for stop in tape.stops:
        found.append([stop])
        while len(found) > 1 and _apart(tape, found[-2], found[-1], width) < 0:
            last = found.pop()
            found[-1] += last
    return [
        Crowd(
            stops=tuple(stops),
            x=_middle(tape, stops),
            current=any(one.label == tape.current_stop for one in stops),
        )
        for stops in found
    ]


def _middle(tape: Tape, stops: Sequence[StopMark]) -> float:
    xs = [tape.scale.x(one.distance_m) for one in stops]
    return round((xs[0] + xs[-1]) / 2, 3)


def _apart(tape: Tape, near: list[StopMark], far: list[StopMark], width: float) -> float:
    """Return how far two markers are apart [px], less than 0 where they would overlap."""
    rooms = sum(CROWD_PX if len(one) > 1 else MARKER_PX for one in (near, far)) / 2
    return (_middle(tape, far) - _middle(tape, near)) / 100 * width - rooms


def _flag(tape: Tape, width: float) -> Flag | None:
    if tape.needed_m is None:
        return None
    x, words = tape.scale.x(tape.needed_m), f"needed {distance(tape.needed_m)}"
    wide = FLAG_LETTER * len(words) + FLAG_PAD
    return Flag(x=x, words=words, width=wide, before=x / 100 * width + wide > width, top=0)


def _rows(tape: Tape, flag: Flag | None, width: float) -> list[Row]:
    """Return the rows: names in a column where they all keep clear of every line, else above."""
    column = [_beside(mark, tape.scale, flag, width) for mark in tape.ranges]
    rows = [one for one in column if one is not None]
    if len(rows) < len(column):
        rows = [_stacked(mark, tape.scale, flag, width) for mark in tape.ranges]
    top, laid = float(STRIP_AND_MARKERS - 1), []
    for number, row in enumerate(rows):
        laid.append(replace(row, top=top, number=number))
        top += STACKED_ROW if row.stacked else ROW
    return laid


def _placed(mark: RangeMark, scale: Scale) -> Row:
    if mark.known is None:
        return Row(mark=mark, top=0.0)
    low, middle, high = (scale.x(one) for one in mark.known)
    was = scale.x(mark.was_m) if mark.was_m else None
    return Row(mark=mark, top=0.0, x=middle, x_low=low, x_high=high, was_x=was)


def _beside(mark: RangeMark, scale: Scale, flag: Flag | None, width: float) -> Row | None:
    """Return a row with its name at the left and its figure beside the bracket; None if it would cross."""
    row, needed = _placed(mark, scale), _px(flag.x, width) if flag else None
    letters = len(mark.letter) + 1 + len(mark.name)
    name_end = NAME_FROM + DOT + NAME_LETTER * letters
    figure = FIGURE_LETTER * len(mark.figure)
    name_x = _per_cent(NAME_FROM, width)
    named = replace(row, name=mark.name, name_x=name_x)
    if mark.known is None:
        end = name_end + CLEAR + figure
        return named if _clear(0.0, end, needed) and end < width else None
    was = row.was_x if row.was_x is not None else row.x_low
    first = _px(min(row.x_low, was), width)
    last = _px(max(row.x_high, row.was_x or 0.0), width)
    if name_end + CLEAR > first or not _clear(0.0, name_end, needed):
        return None
    if last + 2 * CLEAR + figure < width and _clear(last, last + CLEAR + figure, needed):
        return named
    start = first - CLEAR - figure
    if start > name_end + CLEAR and _clear(start, first, needed):
        return replace(named, figure_before=True)
    return None


def _clear(start: float, end: float, needed: float | None) -> bool:
    """Tell whether the line of the needed distance keeps out of a stretch [px]."""
    return needed is None or not start < needed < end + CLEAR


def _stacked(mark: RangeMark, scale: Scale, flag: Flag | None, width: float) -> Row:
    """Return a row with name and figure over the bracket, on the side of the needed line with room."""
    row, needed = _placed(mark, scale), _px(flag.x, width) if flag else width
    fixed = DOT + NAME_LETTER * 2 + FIGURE_LETTER * (len(mark.figure) + 1)
    long = fixed + NAME_LETTER * len(mark.name)
    left, right = needed - NAME_FROM - CLEAR, width - needed - 2 * CLEAR
    if left >= long or left >= right:
        start, room = NAME_FROM, left
    else:
        start, room = max(width - long - CLEAR, needed + CLEAR), right
    letters = max(int((room - fixed) / NAME_LETTER), LEAST_NAME)
    name = mark.name if len(mark.name) <= letters else f"{mark.name[: letters - 1].rstrip()}…"
    return replace(row, name=name, name_x=_per_cent(start, width), stacked=True)


def _px(per_cent: float, width: float) -> float:
    return per_cent / 100 * width


def _per_cent(px: float, width: float) -> float:
    return round(px / width * 100, 3)
