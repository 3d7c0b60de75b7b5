"""The strip of a visit: its frames in the order sent, heard ones tall, missed ones a stub.

Frames that came in a way of their own are told apart by shape: through a relay an open bar, late a
notch cut from the top, more than once a second stroke above, known to be sent but without a place
among the lost an open stub; and where the counter began anew a line goes across.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

WIDTH, HEIGHT = 240, 14
STUB = 3
RELAYED_HEIGHT, NOTCH, STROKE = 8.0, 4.0, 1.6
WAYS = {
    "relayed": "through a relay, which says nothing of the direct link",
    "late": "after one that was sent later",
    "again": "more than once, counted once",
    "anew": "after the counter began anew: how many were sent before is not known",
    "unplaced": "known to be sent, with no line around them: lost, but where among the others is not known",
}


class Way(NamedTuple):
    """One way in which frames of a visit came, how many, and what it means."""

    name: str
    frames: int
    words: str

    @property
    def key(self) -> str:
        """Return the outline that stands for it beside the words, 24 wide."""
        return _SHAPES[self.name](8, 8)


class Strip(NamedTuple):
    """Frames in order sent, drawn as outlines."""

    heard: str
    missed: str
    words: str
    relayed: str = ""
    late: str = ""
    again: str = ""
    anew: str = ""
    unplaced: str = ""
    ways: tuple[Way, ...] = ()

    @property
    def view_box(self) -> str:
        """Return what SVG calls so."""
        return f"0 0 {WIDTH} {HEIGHT}"


def strip_of(
    cells: Sequence[Sequence[int]], marks: Sequence[Mapping[str, int]] = (), *, least: int = 1
) -> Strip:
    """Return the outlines of a strip of (sent, heard) cells, with marks by the number of a cell.

    Fewer than `least` cells leave the rest of the strip empty.
    """
    if not cells:
        return Strip(heard="", missed="", words="no frames")
    width = WIDTH / max(len(cells), least)
    bar = max(width - 1, width * 0.6)
    heard, missed = [], []
    for i, (sent, arrived) in enumerate(cells):
        x, height = i * width, HEIGHT * arrived / sent
        if arrived:
            heard.append(f"M{x:.1f} {HEIGHT}v{-height:.1f}h{bar:.1f}v{height:.1f}z")
        if arrived < sent:
            missed.append(f"M{x:.1f} {HEIGHT}v-{STUB}h{bar:.1f}v{STUB}z")
    total, fine = sum(cell[0] for cell in cells), sum(cell[1] for cell in cells)
    ways = tuple(_ways(marks))
    told = "".join(f"; {way.frames} {way.words}" for way in ways)
    return Strip(
        heard="".join(heard),
        missed="".join(missed),
        words=f"{fine} of {total} heard, in the order sent{told}",
        ways=ways,
        **{
            name: "".join(shape(mark["cell"] * width, bar) for mark in marks if mark.get(name))
            for name, shape in _SHAPES.items()
        },
    )


def _ways(marks: Sequence[Mapping[str, int]]) -> list[Way]:
    counts = {name: sum(mark.get(name, 0) for mark in marks) for name in WAYS}
    return [Way(name, count, WAYS[name]) for name, count in counts.items() if count]


def _relayed(x: float, bar: float) -> str:
    return f"M{x:.1f} {HEIGHT}v{-RELAYED_HEIGHT}h{bar:.1f}v{RELAYED_HEIGHT}"


def _late(x: float, bar: float) -> str:
    return f"M{x:.1f} 0h{bar:.1f}l{-bar / 2:.1f} {NOTCH}z"


def _again(x: float, bar: float) -> str:
    return f"M{x:.1f} {NOTCH}h{bar:.1f}v{STROKE}h{-bar:.1f}z"


def _unplaced(x: float, bar: float) -> str:
    return f"M{x:.1f} {HEIGHT}v{-STUB}h{bar:.1f}v{STUB}z"


def _anew(x: float, bar: float) -> str:
    return f"M{x:.1f} 0v{HEIGHT}"


_SHAPES: Mapping[str, Callable[[float, float], str]] = {
    "relayed": _relayed,
    "late": _late,
    "again": _again,
    "anew": _anew,
    "unplaced": _unplaced,
}
