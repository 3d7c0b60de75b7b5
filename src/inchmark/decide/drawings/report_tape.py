"""The tape of a study on paper: stops, ranges and the needed distance, in fixed places."""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.wording import distance
from inchmark.pages.rig_signs import DOTS, hue, shape
from inchmark.studies.models import Study
from inchmark.studies.tape.layout import tape_of

WIDTH = 700.0
ROWS_TOP, ROW = 62.0, 18.0
LETTER, GAP = 5.4, 8.0  # how wide a letter is on average, and what words keep clear of


@dataclass(frozen=True, slots=True, kw_only=True)
class PaperRange:
    """A rig's range: bar from low to high, mark in the middle, words beside it."""

    letter: str
    hue: str
    dot: str
    y: float
    low: float | None
    middle: float | None
    high: float | None
    words: str
    words_x: float
    words_anchor: str
    measured: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ReportTape:
    """The tape; places in its own units, `width` across."""

    width: float
    height: float
    ticks: list[tuple[float, str, float]]  # place, label, how high the tick begins
    stops: list[tuple[float, str]]
    ranges: list[PaperRange]
    needed: tuple[float, str] | None


def report_tape(study: Study) -> ReportTape:
    """Return a study's tape for a report."""
    tape = tape_of(study)
    laid = tape.laid(WIDTH)

    def at(per_cent: float) -> float:
        return round(per_cent * WIDTH / 100, 2)

    needed_x = at(laid.flag.x) if laid.flag else None
    ranges = []
    for row, placed in enumerate(laid.rows):
        one, known = placed.mark, placed.mark.known is not None
        low, middle, high = (
            at(x) if known else None for x in (placed.x_low, placed.x, placed.x_high)
        )
        words = _words(one.letter, one.name, one.middle_m, one.low_m, one.high_m)
        right = _goes_right(low or 0.0, high or 0.0, LETTER * len(words), needed_x)
        ranges.append(
            PaperRange(
                letter=one.letter, hue=hue(one.letter), dot=DOTS[shape(one.letter)],
                y=ROWS_TOP + ROW * row + 8, low=low, middle=middle, high=high,
                words=words,
                words_x=(high or 0.0) + 8 if right else (low or 0.0) - 8,
                words_anchor="start" if right else "end",
                measured=one.measured,
            )
        )  # fmt: skip
    return ReportTape(
        width=WIDTH,
        height=ROWS_TOP + ROW * len(ranges) + (20 if laid.flag else 4),
        ticks=[
            (at(one.x), one.label if at(one.x) < WIDTH - 30 else "", 8.0 if one.label else 14.0)
            for one in laid.ticks
        ],
        stops=[(at(one.x), one.short) for one in laid.crowds],
        ranges=ranges,
        needed=None if needed_x is None else (needed_x, f"needed {distance(tape.needed_m or 0.0)}"),
    )


def _goes_right(low: float, high: float, wide: float, needed: float | None) -> bool:
    """Tell whether words stand right of a bar: where there is room, and clear of the needed distance."""
    room = high + GAP + wide < WIDTH
    crossed = needed is not None and high < needed < high + GAP + wide
    clear_left = low - GAP - wide > 0 and not (needed and low - GAP - wide < needed < low)
    return room and not (crossed and clear_left)


def _words(
    letter: str, name: str, middle: float | None, low: float | None, high: float | None
) -> str:
    if middle is None or low is None or high is None:
        return f"{letter} {name}: no range"
    return f"{letter} {distance(middle)} ({distance(low)} to {distance(high)})"
