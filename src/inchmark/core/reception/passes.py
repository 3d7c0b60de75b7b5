"""Passes: a visit may be made in several goes, out and back or over two logs.

Between two passes the counter went on while the rig stood elsewhere; what was sent there is no loss
here. So each pass is counted for itself, and the passes are joined.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats
from inchmark.core.reception.sequence import Sequence, expected_sent, read_sequence

Ints = NDArray[np.int64]
MOST_PASSES = 32_000


@dataclass(frozen=True, slots=True, order=True)
class VisitKey:
    """What makes a visit; `walk` keeps outings apart."""

    rig: str
    stop: str
    condition: str = ""
    direction: str = ""
    receiver: str = ""
    walk: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitFrames:
    """The logged lines of one visit in logged order; NaN where a figure was not logged.

    `passes` labels the pass of each line; lines of one pass stand together. Without it all lines
    are one pass.
    """

    seq: Ints
    heard: NDArray[np.bool_]
    rssi_dbm: Floats
    snr_db: Floats
    noise_dbm: Floats
    time_s: Floats
    passes: Ints | None = None
    relayed: NDArray[np.bool_] | None = None
    lat_deg: Floats | None = None
    lon_deg: Floats | None = None

    def direct(self) -> VisitFrames:
        """Return the lines with those that came through a relay as not heard.

        Such a frame is no evidence of the direct link: it was sent, and not heard there.
        """
        if self.relayed is None:
            return self
        return replace(self, heard=self.heard & ~self.relayed, relayed=None)

    def take(self, lines: NDArray[np.intp]) -> VisitFrames:
        """Return some of the lines."""
        return VisitFrames(
            seq=self.seq[lines],
            heard=self.heard[lines],
            rssi_dbm=self.rssi_dbm[lines],
            snr_db=self.snr_db[lines],
            noise_dbm=self.noise_dbm[lines],
            time_s=self.time_s[lines],
            passes=None if self.passes is None else self.passes[lines],
            relayed=None if self.relayed is None else self.relayed[lines],
            lat_deg=None if self.lat_deg is None else self.lat_deg[lines],
            lon_deg=None if self.lon_deg is None else self.lon_deg[lines],
        )

    def pass_lines(self) -> list[NDArray[np.intp]]:
        """Return the line numbers of each pass, in order."""
        lines = np.arange(len(self.seq))
        if self.passes is None:
            return [lines]
        return np.split(lines, np.flatnonzero(np.diff(self.passes)) + 1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Counting:
    """What is known of how frames were sent: counter width, beacon interval [s], frames a visit.

    With `planned`, or the interval and times, a silent tail is lost frames, not fewer frames.
    """

    counter_bits: int | None = None
    interval_s: float | None = None
    planned: int | None = None

    def __post_init__(self) -> None:
        """Refuse an interval or a count that is none."""
        if self.interval_s is not None and not self.interval_s > 0:
            raise ValueError(f"interval_s={self.interval_s!r} must be greater than 0")
        if self.planned is not None and self.planned < 1:
            raise ValueError(f"planned={self.planned!r} must be at least 1")

    def known_sent(self, times_s: Floats) -> int:
        """Return the frames known to have gone out at a visit whose lines bear these times."""
        by_time = 0
        if self.interval_s is not None and len(times_s) > 1:
            by_time = expected_sent(duration_s=float(np.ptp(times_s)), interval_s=self.interval_s)
        return max(self.planned or 0, by_time)


@dataclass(frozen=True, slots=True, kw_only=True)
class Pass:
    """One pass read: its counter, the lines that tell of a heard frame first, 1 for each loss.

    `lines` are all its lines, numbered over the whole visit.
    """

    sequence: Sequence
    lines: NDArray[np.intp]
    first_heard: NDArray[np.intp]
    loss: Floats

    @property
    def silent_tail(self) -> int:
        """Return the frames known to be sent that no line lies around."""
        return len(self.loss) - self.sequence.sent


def read_passes(frames: VisitFrames, counting: Counting) -> list[Pass]:
    """Return the passes of a visit; `first_heard` numbers lines of the whole visit."""
    return [_read_pass(frames, lines, counting) for lines in frames.pass_lines()]


def _read_pass(frames: VisitFrames, lines: NDArray[np.intp], counting: Counting) -> Pass:
    seq, heard, times = frames.seq[lines], frames.heard[lines], frames.time_s[lines]
    sequence = read_sequence(
        seq, times_s=times, interval_s=counting.interval_s, counter_bits=counting.counter_bits
    )
    sent = max(sequence.sent, counting.known_sent(times[np.isfinite(times)]))
    loss = np.ones(sent)
    loss[sequence.index[heard]] = 0  # a frame logged both as missed and as heard was heard
    told = np.flatnonzero(heard)
    first = told[np.unique(sequence.index[told], return_index=True)[1]]
    return Pass(sequence=sequence, lines=lines, first_heard=lines[first], loss=loss)


def copied_lines(frames: VisitFrames) -> NDArray[np.intp]:
    """Return the lines that repeat counter and time of an earlier one, in order.

    A log sent again in a longer version must not count its frames twice.
    """
    timed = np.flatnonzero(np.isfinite(frames.time_s))
    times = frames.time_s[timed]
    if np.all(np.diff(times) > 0):
        return timed[:0]  # no two of them at one time
    relayed = np.zeros(len(frames.seq)) if frames.relayed is None else frames.relayed
    stamps = np.stack([frames.seq.astype(np.float64), frames.time_s, frames.heard, relayed])
    _, first = np.unique(stamps[:, timed], axis=1, return_index=True)
    return np.delete(timed, first)


@dataclass(slots=True)
class PassCounter:
    """Numbers the passes of each visit while a log streams by.

    A rig, as one receiver hears it in one direction, is at one stop in one condition at a time:
    lines of another stop or condition in between end the pass, and so does a log that says so.
    """

    here: dict[tuple[str, str, str], tuple[VisitKey, float]] = field(default_factory=dict)
    count: dict[VisitKey, int] = field(default_factory=dict)

    def number(
        self, visits: Mapping[VisitKey, Ints], lines: int, said: Floats | None = None
    ) -> Ints:
        """Return the pass, from 0, of each of so many lines; visits hold their line numbers.

        `said` is the pass a log itself names, NaN where it names none.
        """
        named = np.nan_to_num(said, nan=-1.0) if said is not None else np.full(lines, -1.0)
        passes = np.zeros(lines, dtype=np.int64)
        links: dict[tuple[str, str, str], list[VisitKey]] = {}
        for key in visits:
            links.setdefault((key.rig, key.direction, key.receiver), []).append(key)
        for link, keys in links.items():
            rows = np.concatenate([visits[key] for key in keys])
            codes = np.repeat(np.arange(len(keys)), [len(visits[key]) for key in keys])
            order = np.argsort(rows, kind="stable")
            rows, codes = rows[order], codes[order]
            changed = (np.diff(codes, prepend=-1) != 0) | (np.diff(named[rows], prepend=-2) != 0)
            starts = np.flatnonzero(changed)
            for start, end in zip(starts, [*starts[1:], len(rows)], strict=True):
                passes[rows[start:end]] = self._enter(
                    link, keys[codes[start]], float(named[rows[start]])
                )
        return passes

    def _enter(self, link: tuple[str, str, str], key: VisitKey, said: float) -> int:
        if self.here.get(link) != (key, said):
            self.here[link] = (key, said)
            self.count[key] = min(self.count.get(key, -1) + 1, MOST_PASSES)
        return self.count[key]
