"""The strip of a visit: its frames in the order sent, gathered into cells, and what was odd in each.

A frame may have come through a relay (no evidence of the direct link), late (after one that was sent
later), or more than once. Where a counter began anew, how many were sent before is not known. Frames
known to be sent around which no line lies have no sure place among the lost.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats
from inchmark.core.reception.passes import Pass

STRIP_CELLS = 120  # longer visits are gathered into as many
KINDS = ("relayed", "late", "again", "anew", "unplaced")


@dataclass(frozen=True, slots=True, kw_only=True)
class StripMark:
    """A cell, by its number from 0, and how many of its frames came in a way of their own."""

    cell: int
    relayed: int = 0
    late: int = 0
    again: int = 0
    anew: int = 0
    unplaced: int = 0


def strip_of_losses(loss: Floats) -> tuple[tuple[int, int], ...]:
    """Return (sent, heard) by cell of losses (1 = lost) in the order sent, at least one."""
    edges = _edges(len(loss))
    lost = np.add.reduceat(loss, edges[:-1]).astype(int)
    return tuple(
        (int(size), int(size - gone)) for size, gone in zip(np.diff(edges), lost, strict=True)
    )


def strip_marks(
    passes: Sequence[Pass], *, relayed: NDArray[np.bool_], copied: NDArray[np.bool_]
) -> tuple[StripMark, ...]:
    """Return the cells in which a frame came in a way of its own, in order.

    Parameters
    ----------
    relayed, copied
        By line of the visit: came through a relay; was said again by a line that is left out.
    """
    edges = _edges(sum(len(one.loss) for one in passes))
    found = {name: np.zeros(len(edges) - 1, dtype=int) for name in KINDS}
    start = 0
    for one in passes:
        place = one.sequence.index
        own = {
            "relayed": place[relayed[one.lines]],
            "late": place[one.sequence.late_lines],
            "again": np.concatenate([place[one.sequence.again_lines], place[copied[one.lines]]]),
            "anew": place[one.sequence.restart_lines],
            "unplaced": np.arange(one.sequence.sent, len(one.loss)),
        }
        for name, found_at in own.items():
            places = start + found_at
            cells = np.searchsorted(edges, places, side="right") - 1
            np.add.at(found[name], cells, 1)
        start += len(one.loss)
    some = np.flatnonzero(sum(found.values()))
    return tuple(
        StripMark(cell=int(i), **{name: int(counts[i]) for name, counts in found.items()})
        for i in some
    )


def _edges(frames: int) -> NDArray[np.int64]:
    return np.linspace(0, frames, min(frames, STRIP_CELLS) + 1).astype(np.int64)
