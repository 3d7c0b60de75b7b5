"""From when to when which rig stood at which stop, carried how; and where it was on a track."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import NamedTuple

from inchmark.core.gathering.source import Row

TRACK_AGE_S = 60.0  # a point of a track farther away in time says nothing of where a frame was


class Stay(NamedTuple):
    """A stretch of time [s since 1970] at a stop; `sent` is how many frames went out, if known."""

    from_s: float
    to_s: float
    stop: str
    rig: str = ""
    condition: str = ""
    receiver: str = ""
    sent: int | None = None

    def takes(self, row: Row) -> bool:
        """Tell whether a row falls into it; what the row does not say does not part them."""
        if row.time_s is None or not self.from_s <= row.time_s < self.to_s:
            return False
        return _agree(self.rig, row.rig) and _agree(self.receiver, row.receiver)


def _agree(said: str, known: str) -> bool:
    return not said or not known or said == known


class Timeline:
    """Stays in order of time, asked for many rows."""

    def __init__(self, stays: Iterable[Stay]) -> None:
        self.stays = sorted(stays, key=lambda stay: stay.from_s)
        self.starts = [stay.from_s for stay in self.stays]
        self.longest = max((s.to_s - s.from_s for s in self.stays), default=0.0)

    def stay_of(self, row: Row) -> Stay | None:
        """Return the stay a row falls into; the one that names its rig before one that names none."""
        if row.time_s is None:
            return None
        best: Stay | None = None
        for i in range(bisect_right(self.starts, row.time_s) - 1, -1, -1):
            stay = self.stays[i]
            if stay.from_s < row.time_s - self.longest:
                break
            if stay.takes(row) and (best is None or (bool(stay.rig) > bool(best.rig))):
                best = stay
        return best

    def placed(self, row: Row) -> Row:
        """Return the row with what its stay says and its line does not."""
        stay = self.stay_of(row)
        if stay is None:
            return row
        return replace(
            row,
            stop=row.stop or stay.stop,
            rig=row.rig or stay.rig,
            condition=row.condition or stay.condition,
            receiver=row.receiver or stay.receiver,
        )


class Track:
    """Where somebody was: times [s since 1970], latitudes and longitudes [degrees]."""

    def __init__(self, points: Sequence[tuple[float, float, float]]) -> None:
        self.points = sorted(points)
        self.times = [point[0] for point in self.points]

    def placed(self, row: Row) -> Row:
        """Return the row with its position, between the two points around its time."""
        if row.time_s is None or row.lat is not None or not self.points:
            return row
        i = bisect_right(self.times, row.time_s)
        before, after = self.points[max(i - 1, 0)], self.points[min(i, len(self.points) - 1)]
        if min(abs(before[0] - row.time_s), abs(after[0] - row.time_s)) > TRACK_AGE_S:
            return row
        span = after[0] - before[0]
        share = min(max((row.time_s - before[0]) / span, 0.0), 1.0) if span > 0 else 0.0
        lat = before[1] + share * (after[1] - before[1])
        lon = before[2] + share * (after[2] - before[2])
        return replace(row, lat=lat, lon=lon)
