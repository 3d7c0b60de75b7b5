"""Reading a frame counter: gaps, wraps, resets, duplicates, frames out of order, silence.

Frames are taken in the order they were logged. A counter that falls back has done one of four
things, told apart by how far and from where:

* a short step back, or one frame from further back: a *duplicate* if its number was seen (a
  relay, or a resent copy), else *out of order*;
* from near the top of 8, 16 or 32 bits to near zero: a *wrap*;
* anything else, and a jump ahead of more than `MAX_GAP`: a *reset*. The frames lost between
  are unknown unless times and the beacon
  interval tell.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats

COUNTER_BITS = (8, 16, 32)
REORDER_WINDOW = 16  # frames; a step back this short is a late frame, not a reset
MAX_GAP = (
    20_000  # frames; a jump ahead this long is a damaged or changed counter, not that many losses
)
WRAP_SHARE = 0.25  # a wrap leaves the top quarter and enters the bottom quarter


def _no_lines() -> NDArray[np.intp]:
    return np.zeros(0, dtype=np.intp)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sequence:
    """A counter read: `index` is each line's place among the frames sent, from 0.

    Lines that speak of the same frame share a place; `duplicates` counts the later ones.
    """

    index: NDArray[np.int64]
    sent: int
    wraps: int = 0
    resets: int = 0
    duplicates: int = 0
    out_of_order: int = 0
    gaps: tuple[tuple[int, int], ...] = field(default=())  # (first missing index, how many)
    late_lines: NDArray[np.intp] = field(default_factory=_no_lines)
    again_lines: NDArray[np.intp] = field(default_factory=_no_lines)
    restart_lines: NDArray[np.intp] = field(default_factory=_no_lines)  # first after a reset

    @property
    def missing(self) -> int:
        """Return the frames inside the sequence that no line speaks of."""
        return sum(count for _, count in self.gaps)


def read_sequence(
    seq: NDArray[np.int64],
    *,
    times_s: Floats | None = None,
    interval_s: float | None = None,
    counter_bits: int | None = None,
) -> Sequence:
    """Return what the counter says of one visit.

    Parameters
    ----------
    seq
        Counter values >= 0, shape (frames,), in logged order.
    times_s
        Times of the frames [s], NaN where unknown; with `interval_s` they tell how many frames
        a reset swallowed.
    interval_s
        Beacon interval [s].
    counter_bits
        8, 16 or 32 where known; otherwise a wrap is looked for at each.
    """
    if np.any(seq < 0):
        raise ValueError("seq must not be negative")
    if not len(seq):
        return Sequence(index=np.zeros(0, dtype=np.int64), sent=0)
    steps = np.diff(seq)
    if np.all((steps > 0) & (steps <= MAX_GAP)):
        index = seq - seq[0]
        return Sequence(index=index, sent=int(index[-1]) + 1, gaps=_gaps(index))
    reader = _Reader(
        bits=(counter_bits,) if counter_bits else COUNTER_BITS,
        top=int(seq.max()),
        interval_s=interval_s,
    )
    stamps = [None] * len(seq) if times_s is None else [float(t) for t in times_s]
    values = [int(value) for value in seq]
    following = [*values[1:], None]
    unwrapped = np.array(
        [reader.place(*one) for one in zip(values, stamps, following, strict=True)],
        dtype=np.int64,
    )
    return reader.result(unwrapped)


class _Reader:
    """Walks the counter once, holding where it stands."""

    def __init__(self, *, bits: tuple[int, ...], top: int, interval_s: float | None) -> None:
        self.bits, self.top, self.interval_s = bits, top, interval_s
        self.offset = 0  # added to the counter to make it continuous
        self.highest: int | None = None  # continuous value of the furthest frame so far
        self.highest_time: float | None = None
        self.seen: set[int] = set()
        self.wraps = 0
        self.line = -1
        self.late: list[int] = []
        self.again: list[int] = []
        self.restarts: list[int] = []

    def place(self, value: int, time_s: float | None, following: int | None) -> int:
        """Return the continuous number of one frame; a duplicate has the one it repeats."""
        self.line += 1
        place = value + self.offset
        if self.highest is None:
            return self._advance(place, time_s)
        if place > self.highest:
            return self._ahead(value, place, time_s)
        if self.highest - place <= REORDER_WINDOW:
            return self._late(place)
        if self._wrapped(value):
            return self._advance(value + self.offset, time_s)
        if following is not None and following + self.offset > self.highest - REORDER_WINDOW:
            return self._late(place)  # a stray: the counter goes on where it was
        return self._reset(value, time_s)

    def _ahead(self, value: int, place: int, time_s: float | None) -> int:
        assert self.highest is not None
        back_across_wrap = self._late_across_wrap(value)
        if back_across_wrap:
            return self._late(back_across_wrap)
        if place - self.highest > MAX_GAP:
            return self._reset(value, time_s)
        return self._advance(place, time_s)

    def _reset(self, value: int, time_s: float | None) -> int:
        assert self.highest is not None
        self.restarts.append(self.line)
        self.offset = self.highest + self._swallowed(time_s) - value
        return self._advance(value + self.offset, time_s)

    def _advance(self, place: int, time_s: float | None) -> int:
        self.highest = place
        if time_s is not None and np.isfinite(time_s):
            self.highest_time = time_s
        self.seen.add(place)
        return place

    def _late(self, place: int) -> int:
        if place in self.seen:
            self.again.append(self.line)
            return place
        self.late.append(self.line)
        self.seen.add(place)
        return place

    def _wrapped(self, value: int) -> bool:
        """Tell whether the fall is a wrap, and move the offset if it is."""
        assert self.highest is not None
        last = self.highest - self.offset
        for bits in self.bits:
            size = 1 << bits
            near_top, near_zero = size * (1 - WRAP_SHARE), size * WRAP_SHARE
            if self.top < size and last >= near_top and value < near_zero:
                self.offset += size
                self.wraps += 1
                return True
        return False

    def _late_across_wrap(self, value: int) -> int:
        """Return the place of a frame sent before a wrap but logged after it, else 0."""
        assert self.highest is not None
        for bits in self.bits:
            size = 1 << bits
            before = value + self.offset - size
            if self.wraps and self.top < size and 0 < self.highest - before <= REORDER_WINDOW:
                return before
        return 0

    def _swallowed(self, time_s: float | None) -> int:
        """Return the steps from the last frame before a reset to the first after it."""
        if not self.interval_s or time_s is None or self.highest_time is None:
            return 1
        steps = (time_s - self.highest_time) / self.interval_s
        return min(max(round(steps), 1), MAX_GAP) if np.isfinite(steps) else 1

    def result(self, unwrapped: NDArray[np.int64]) -> Sequence:
        """Return the reading, counted from the first frame sent."""
        index = unwrapped - unwrapped.min()
        return Sequence(
            index=index,
            sent=int(index.max()) + 1,
            wraps=self.wraps,
            resets=len(self.restarts),
            duplicates=len(self.again),
            out_of_order=len(self.late),
            gaps=_gaps(np.unique(index)),
            late_lines=np.array(self.late, dtype=np.intp),
            again_lines=np.array(self.again, dtype=np.intp),
            restart_lines=np.array(self.restarts, dtype=np.intp),
        )


def _gaps(ordered: NDArray[np.int64]) -> tuple[tuple[int, int], ...]:
    steps = np.diff(ordered)
    where = np.flatnonzero(steps > 1)
    return tuple((int(ordered[i]) + 1, int(steps[i]) - 1) for i in where)


def expected_sent(*, duration_s: float, interval_s: float) -> int:
    """Return the frames a beacon sends in a time [s], both ends counted.

    This is what a visit with nothing heard is measured against: silence is `sent` lost frames.
    """
    if not (duration_s >= 0 and interval_s > 0):
        raise ValueError(
            f"duration_s={duration_s!r} must not be negative, interval_s={interval_s!r} above 0"
        )
    return int(duration_s / interval_s + 1e-9) + 1


def beacon_interval_s(seq: NDArray[np.int64], times_s: Floats) -> float | None:
    """Return the median time per count [s] between neighbouring frames, None where unknown."""
    steps, spans = np.diff(seq), np.diff(times_s)
    usable = (steps > 0) & (steps < REORDER_WINDOW) & np.isfinite(spans) & (spans > 0)
    if np.count_nonzero(usable) < 3:
        return None
    return float(np.median(spans[usable] / steps[usable]))
