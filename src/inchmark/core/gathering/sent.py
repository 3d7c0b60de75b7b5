"""A sender's own log joined to what was heard: what went out and was not heard is lost."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import replace

from inchmark.core.gathering.source import Row

MOST_APART_S = 30.0  # two times of one frame, once clocks are set, are nearer than this


class SentLog:
    """Frames a sender says it sent, by rig and counter."""

    def __init__(self, rows: Iterable[Row]) -> None:
        self.rows = [row for row in rows if row.seq is not None]
        self.by_counter: dict[int, list[Row]] = defaultdict(list)
        for row in self.rows:
            self.by_counter[row.seq or 0].append(row)

    def of(self, heard: Row) -> Row | None:
        """Return the transmission that a frame heard is, nearest in time where both have one."""
        found = [
            row for row in self.by_counter.get(heard.seq or 0, ())
            if not row.rig or not heard.rig or row.rig == heard.rig
        ]  # fmt: skip
        if not found:
            return None
        if heard.time_s is None:
            return found[0]
        best = min(found, key=lambda row: _apart(row, heard))
        return best if _apart(best, heard) <= MOST_APART_S else None

    def joined(self, heard: Sequence[Row]) -> list[Row]:
        """Return frames heard with what their sender knows, and those it sent that nobody heard.

        Only for streams that heard something of the sender's rig: another receiver's silence is
        unknown.
        """
        out: list[Row] = []
        streams: dict[tuple[str, str, str], set[int]] = {}
        for row in heard:
            sent = self.of(row)
            if sent is not None:
                row = _told_by_sender(row, sent)
                streams.setdefault(row.stream, set()).add(id(sent))
            out.append(row)
        for stream, known in streams.items():
            out += [
                replace(row, rig=stream[0], direction=stream[1], receiver=stream[2], heard=False)
                for row in self.rows
                if id(row) not in known and row.rig in ("", stream[0])
            ]
        return out


def _apart(row: Row, other: Row) -> float:
    if row.time_s is None or other.time_s is None:
        return 0.0
    return abs(row.time_s - other.time_s)


def _told_by_sender(row: Row, sent: Row) -> Row:
    return replace(
        row,
        rig=row.rig or sent.rig,
        stop=row.stop or sent.stop,
        condition=row.condition or sent.condition,
        time_s=sent.time_s if row.time_s is None else row.time_s,
        lat=sent.lat if row.lat is None else row.lat,
        lon=sent.lon if row.lon is None else row.lon,
    )
