"""All of it: what sources told, with constants and a timeline, as frames by visit."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace

from inchmark.core.gathering.exchanges import tries_of
from inchmark.core.gathering.sent import SentLog
from inchmark.core.gathering.source import Row, Source
from inchmark.core.gathering.timeline import Stay, Timeline, Track
from inchmark.core.gathering.visits import Sending, passes, silent, visit_key, with_lost
from inchmark.core.reading.measured import REPLIES
from inchmark.core.recipe.names import Act


@dataclass(slots=True, kw_only=True)
class Gathered:
    """Frames by visit, and what could not be placed or counted, in numbers."""

    rows: list[Row] = field(default_factory=list)
    unplaced: list[Row] = field(default_factory=list)
    without_count: int = 0  # neither a counter, nor a beat, nor how many were sent
    exchanges: list[str] = field(default_factory=list)  # sources that tell of tries and answers
    senders: list[str] = field(default_factory=list)  # sources that tell what was sent

    @property
    def without_rig(self) -> int:
        """Return how many frames name no rig."""
        return sum(not row.rig for row in self.unplaced)

    @property
    def without_stop(self) -> int:
        """Return how many frames name a rig and no stop."""
        return sum(bool(row.rig) for row in self.unplaced)


def gather(
    sources: Sequence[Source],
    *,
    timeline: Timeline | None = None,
    track: Track | None = None,
    sending: Sending | None = None,
    whole: bool = True,
) -> Gathered:
    """Return the frames of several sources: one row for each transmission and receiver.

    Not `whole`: without frames that the counter tells to be lost, and without stays at which
    nothing was heard.
    """
    timeline, sending = timeline or Timeline(()), sending or Sending()
    found = Gathered()
    heard = _heard(sources, found)
    placed = [timeline.placed(track.placed(row) if track else row) for row in heard]
    kept = [row for row in placed if _placed(row, found)]
    by_stream: dict[tuple[str, str, str], list[Row]] = {}
    for row in kept:
        by_stream.setdefault(row.stream, []).append(row)
    visited: set[tuple[str, ...]] = set()
    for stream in by_stream.values():
        runs = list(passes(_in_order(stream), timeline))
        times = Counter(visit_key(run[0]) for run, _ in runs)
        for run, stay in runs:
            # how many are sent at a visit says nothing of one pass of several
            once = sending if times[visit_key(run[0])] == 1 else replace(sending, per_visit=None)
            found.rows += _pass(run, stay, once, found, gaps=whole)
            visited.add(visit_key(run[0]))
    if whole:
        found.rows += _silent(timeline, by_stream, visited)
    return found


def _heard(sources: Sequence[Source], found: Gathered) -> list[Row]:
    """Return rows of frames heard and lost, senders' own logs joined to what others heard."""
    rows: list[Row] = []
    sent: list[Row] = []
    for source in sources:
        tries = tries_of(source)
        if tries is not None:
            found.exchanges.append(source.name)
            rows += [row if row.direction else replace(row, direction=REPLIES) for row in tries]
            continue
        own = [row for act, row in source.told if act is Act.SENT and row.seq is not None]
        if own:
            found.senders.append(source.name)
            sent += own
        rows += [row for act, row in source.told if act is not Act.SENT]
    return SentLog(sent).joined(rows) if sent else rows


def _placed(row: Row, found: Gathered) -> bool:
    placed = bool(row.rig and row.stop)
    if not placed:
        found.unplaced.append(row)
    return placed


def _in_order(rows: list[Row]) -> list[Row]:
    """Return rows by time where all have one, else as logged."""
    if all(row.time_s is not None for row in rows):
        return sorted(rows, key=lambda row: row.time_s or 0.0)
    return rows


def _pass(
    run: list[Row], stay: Stay | None, sending: Sending, found: Gathered, *, gaps: bool
) -> Iterable[Row]:
    counted = all(row.seq is not None for row in run)
    known = sending.per_visit or sending.interval_s or (stay and stay.sent is not None)
    if not counted and not known:
        found.without_count += len(run)
    return with_lost(run, sending, stay, gaps=gaps)


def _silent(
    timeline: Timeline,
    streams: Iterable[tuple[str, str, str]],
    visited: set[tuple[str, ...]],
) -> list[Row]:
    """Return the frames of stays at which nothing was heard: silence is a result."""
    rows = []
    for stay in timeline.stays:
        if not stay.sent or not stay.rig:
            continue
        own = [key for key in streams if key[0] == stay.rig] or [(stay.rig, "", stay.receiver)]
        for rig, direction, receiver in own:
            row = Row(
                rig=rig,
                stop=stay.stop,
                condition=stay.condition,
                direction=direction,
                receiver=receiver,
            )
            mine = not stay.receiver or stay.receiver == receiver
            if mine and visit_key(row) not in visited:
                visited.add(visit_key(row))
                rows += silent(row, stay.sent)
    return rows
