"""One link while frames come in: the visit it is at now, summed up as Read would sum it up."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from inchmark.core.gathering.source import Row
from inchmark.core.live.enough import Enough, Wanted, enough_of
from inchmark.core.reception.passes import Counting, VisitFrames
from inchmark.core.reception.visit import VisitSummary, summarise_visit

Stream = tuple[str, str, str]  # rig, direction, receiver
MOST_HELD = 5_000  # frames of one visit held; an older one is dropped, and the page says so
HOUR_S = 3600.0
LONGEST_GAP = 100  # frames; a counter that jumps farther has begun anew or stood elsewhere


@dataclass(frozen=True, slots=True, kw_only=True)
class LiveVisit:
    """What a link hears at the visit it is at: levels [dBm], S/N [dB], times [s since 1970]."""

    stream: Stream
    stop: str
    condition: str
    summary: VisitSummary
    enough: Enough
    last: Row  # the last one heard, or the last line where none was
    interval_s: float | None
    cut: bool  # frames before those held are not counted here


@dataclass(slots=True)
class LiveLink:
    """The frames of a link since it came to where it is."""

    stream: Stream
    place: tuple[str, str] = ("", "")
    rows: list[Row] = field(default_factory=list)
    cut: bool = False
    # when frames were heard in the last hour, and how many the counter says went out up to each
    sent: deque[tuple[float, int]] = field(default_factory=deque)
    counter: int | None = None

    def take(self, row: Row) -> None:
        """Take a frame; one of another stop or another way of carrying begins a visit."""
        place = row.stop, row.condition
        if place != self.place:
            self.place, self.rows, self.cut = place, [], False
        self.rows.append(row)
        self._count_sent(row)
        if len(self.rows) > MOST_HELD:
            del self.rows[0]
            self.cut = True

    def _count_sent(self, row: Row) -> None:
        if row.seq is None or row.time_s is None:
            return
        step = 1 if self.counter is None else row.seq - self.counter
        self.counter = row.seq
        if step:
            self.sent.append((row.time_s, step if 0 < step <= LONGEST_GAP else 1))
        while self.sent and self.sent[0][0] < row.time_s - HOUR_S:
            self.sent.popleft()

    def sent_since(self, time_s: float) -> int:
        """Return how many frames went out since a time, at most an hour ago."""
        return sum(frames for at, frames in self.sent if at >= time_s)

    def visit(self, counting: Counting, wanted: Wanted, *, includes_noise: bool) -> LiveVisit:
        """Return the visit as it stands; at least one frame was taken."""
        summary = summarise_visit(
            _arrays(self.rows), rssi_includes_noise=includes_noise, counting=counting
        )
        heard = [row for row in self.rows[-200:] if row.heard]
        return LiveVisit(
            stream=self.stream,
            stop=self.place[0],
            condition=self.place[1],
            summary=summary,
            enough=enough_of(summary.lost, summary.runs, wanted),
            last=heard[-1] if heard else self.rows[-1],
            interval_s=counting.interval_s or summary.interval_s,
            cut=self.cut,
        )


def _arrays(rows: list[Row]) -> VisitFrames:
    def column(name: str) -> np.ndarray:
        found = (getattr(row, name) for row in rows)
        return np.array([np.nan if value is None else value for value in found], dtype=float)

    return VisitFrames(
        seq=np.array([row.seq or 0 for row in rows], dtype=np.int64),
        heard=np.array([row.heard for row in rows], dtype=bool),
        rssi_dbm=column("rssi_dbm"),
        snr_db=column("snr_db"),
        noise_dbm=column("noise_dbm"),
        time_s=column("time_s"),
        relayed=np.array([bool(row.hops) for row in rows], dtype=bool),
    )


@dataclass(slots=True)
class Desk:
    """All links of a walk as they come in; rows without rig or stop are counted apart."""

    links: dict[Stream, LiveLink] = field(default_factory=dict)
    without: int = 0  # frames that have no rig or no stop

    def take(self, rows: Iterable[Row]) -> set[Stream]:
        """Take frames in order; return the links that have changed."""
        changed = set()
        for row in rows:
            if not row.rig or not row.stop:
                self.without += 1
                continue
            link = self.links.setdefault(row.stream, LiveLink(row.stream))
            link.take(row)
            changed.add(row.stream)
        return changed
