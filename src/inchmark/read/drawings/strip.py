"""The strip of a visit: its frames in the order sent, heard ones tall, missed ones a stub."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

WIDTH, HEIGHT = 240, 14
STUB = 3


class Strip(NamedTuple):
    """Frames in order sent, drawn as two outlines."""

    heard: str
    missed: str
    words: str

    @property
    def view_box(self) -> str:
        """Return what SVG calls so."""
        return f"0 0 {WIDTH} {HEIGHT}"


def strip_of(cells: Sequence[Sequence[int]]) -> Strip:
    """Return the outlines of a strip of (sent, heard) cells."""
    if not cells:
        return Strip(heard="", missed="", words="no frames")
    width = WIDTH / len(cells)
    bar = max(width - 1, width * 0.6)
    heard, missed = [], []
    for i, (sent, arrived) in enumerate(cells):
        x, height = i * width, HEIGHT * arrived / sent
        if arrived:
            heard.append(f"M{x:.1f} {HEIGHT}v{-height:.1f}h{bar:.1f}v{height:.1f}z")
        if arrived < sent:
            missed.append(f"M{x:.1f} {HEIGHT}v-{STUB}h{bar:.1f}v{STUB}z")
    total, fine = sum(cell[0] for cell in cells), sum(cell[1] for cell in cells)
    return Strip(
        heard="".join(heard),
        missed="".join(missed),
        words=f"{fine} of {total} heard, in the order sent",
    )
