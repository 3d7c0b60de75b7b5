"""The frames of one visit, those lost among them: by the counter, by a beat, by how many were sent."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.gathering.source import Row
from inchmark.core.gathering.timeline import Stay, Timeline
from inchmark.core.reception.sequence import COUNTER_BITS, read_sequence

MOST_LOST = 20_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Sending:
    """How frames were sent: seconds between them, how many a visit; None where unknown."""

    interval_s: float | None = None
    per_visit: int | None = None


def visit_key(row: Row) -> tuple[str, str, str, str, str]:
    """Return what makes a visit of a row."""
    return row.rig, row.stop, row.condition, row.direction, row.receiver


def passes(rows: Sequence[Row], timeline: Timeline) -> Iterator[tuple[list[Row], Stay | None]]:
    """Yield runs of rows of one stream that stood at one stop, with their stay.

    The counter goes on between runs: two stays at one stop are two, unless one follows on the
    other.
    """
    stays = [timeline.stay_of(row) for row in rows]
    starts = [i for i in range(len(rows)) if i == 0 or _parted(rows, stays, i)]
    counts: Counter[tuple[str, ...]] = Counter()
    for start, end in zip(starts, [*starts[1:], len(rows)], strict=True):
        key = visit_key(rows[start])
        run = [replace(row, pass_number=counts[key]) for row in rows[start:end]]
        counts[key] += 1
        inside = {id(stay): stay for stay in stays[start:end]}
        yield run, stays[start] if len(inside) == 1 else None


def _parted(rows: Sequence[Row], stays: Sequence[Stay | None], i: int) -> bool:
    return parted_by(stays[i - 1], stays[i]) or visit_key(rows[i - 1]) != visit_key(rows[i])


def parted_by(one: Stay | None, other: Stay | None) -> bool:
    """Tell whether two stays are two, and do not follow on each other."""
    if one is None or other is None or one is other:
        return False
    return other.from_s > one.to_s


def with_lost(
    rows: list[Row], sending: Sending, stay: Stay | None, *, gaps: bool = True
) -> list[Row]:
    """Return the frames of one pass in order sent, those lost among them as not heard.

    Without `gaps` those that the counter alone tells are left to whoever reads the counter.
    """
    planned = stay.sent if stay and stay.sent is not None else sending.per_visit
    if any(row.seq is None for row in rows):
        return _by_beat(rows, sending.interval_s, planned, stay)
    found = _by_counter(rows, sending.interval_s) if gaps else rows
    return found + _tail(found, planned)


def silent(row: Row, sent: int) -> list[Row]:
    """Return frames of a visit at which nothing was heard."""
    return [replace(row, seq=i, heard=False) for i in range(min(sent, MOST_LOST))]


def _by_counter(rows: list[Row], interval_s: float | None) -> list[Row]:
    times = np.array([np.nan if row.time_s is None else row.time_s for row in rows])
    counters = np.array([row.seq for row in rows], dtype=np.int64)
    read = read_sequence(counters, times_s=times, interval_s=interval_s)
    out: list[tuple[int, Row]] = [(int(i), row) for i, row in zip(read.index, rows, strict=True)]
    by_index = {int(i): row for i, row in zip(read.index, rows, strict=True)}
    top = _top(counters)
    for first, count in read.gaps:
        before = by_index.get(first - 1)
        if before is None or count > MOST_LOST:
            continue
        for k in range(count):
            seq = ((before.seq or 0) + 1 + k) % top
            out.append((first + k, _lost(before, seq)))
    out.sort(key=lambda one: one[0])
    return [row for _, row in out]


def _top(counters: np.ndarray) -> int:
    """Return where the counter wraps, the narrowest width that holds it."""
    largest = int(counters.max())
    return int(next(2**bits for bits in COUNTER_BITS if largest < 2**bits))


def _lost(like: Row, seq: int) -> Row:
    return replace(
        like, seq=seq, heard=False, time_s=None, rssi_dbm=None, snr_db=None, noise_dbm=None,
        source="", hops=None, lat=None, lon=None,
    )  # fmt: skip


def _tail(found: list[Row], planned: int | None) -> list[Row]:
    """Return the frames after the last one heard, where it is known how many were sent."""
    distinct = len({row.seq for row in found})
    if planned is None or planned <= distinct:
        return []
    last = max(found, key=lambda row: row.seq or 0)
    missing = min(planned - distinct, MOST_LOST)
    return [_lost(last, (last.seq or 0) + 1 + k) for k in range(missing)]


def _by_beat(
    rows: list[Row], interval_s: float | None, planned: int | None, stay: Stay | None
) -> list[Row]:
    """Return frames that bear no counter, numbered by when they came, or one after another."""
    times = [row.time_s for row in rows]
    first = next((t for t in times if t is not None), None)
    if interval_s and first is not None:
        start = stay.from_s if stay else first
        phase = (first - start) % interval_s if stay else 0.0
        slots = [
            round((t - start - phase) / interval_s) if t is not None else i
            for i, t in enumerate(times)
        ]
        planned = planned or _slots(stay, interval_s)
    else:
        slots = list(range(len(rows)))
    heard: dict[int, Row] = {}
    for slot, row in zip(slots, rows, strict=True):
        heard.setdefault(max(slot, 0), replace(row, seq=max(slot, 0)))
    count = min(max([planned or 0, *(slot + 1 for slot in heard)]), MOST_LOST)
    return [heard.get(i) or _lost(rows[0], i) for i in range(count)]


def _slots(stay: Stay | None, interval_s: float) -> int | None:
    return int((stay.to_s - stay.from_s) / interval_s) if stay else None
