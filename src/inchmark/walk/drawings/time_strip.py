"""The strip of time of a walk: stays as bars, and the frames of each log under them."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Mapping, Sequence
from datetime import UTC, datetime, timedelta, tzinfo
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from django.db.models.functions import TruncMinute, TruncSecond

from inchmark.walk.models import FrameFile, Mark, Stay, Track, Walk

WIDTH, ROW, LANE, NOTES = 960.0, 26.0, 20.0, 18.0
FINE = 20_000  # frames; a log with more is drawn by the minute
GAP_S = (
    121.0  # a stay without a frame for so long is said; frames of a long log stand by the minute
)
MOST_GAPS = 12
MOST_POINTS = 1_000  # of a track, drawn
ALL_RIGS = ""
SHORT = timedelta(minutes=12)  # a strip whose ticks would repeat a minute


class Edge(NamedTuple):
    """An end of a stay that can be dragged: which, of which stay, where, and in words."""

    stay: int
    which: str
    x: float
    y: float
    words: str


class Bar(NamedTuple):
    """A stay on the strip."""

    x: float
    y: float
    width: float
    label_x: float
    label: str
    words: str
    edges: tuple[Edge, ...]


class Lane(NamedTuple):
    """A row of stays: of one rig, or of those that name none."""

    name: str
    y: float


class LogRow(NamedTuple):
    """A log on the strip: its name and where it has frames."""

    name: str
    name_y: float
    path: str


class Said(NamedTuple):
    """A note, photo or look on the strip: where, and in words."""

    x: float
    y: float
    words: str
    photo: int | None = None


class Tick(NamedTuple):
    """A time under the strip."""

    x: float
    anchor: str
    words: str


class TimeStrip(NamedTuple):
    """A walk as a strip of time; `start_ms` and `ms_per_unit` lead from x to the clock and back."""

    lanes: tuple[Lane, ...]
    bars: tuple[Bar, ...]
    logs: tuple[LogRow, ...]
    ticks: tuple[Tick, ...]
    tick_y: float
    view_box: str
    gaps: tuple[str, ...]
    said: tuple[Said, ...]
    start: datetime
    seconds_a_unit: float


class StayShown(NamedTuple):
    """A stay as the strip shows it."""

    pk: int
    start: datetime
    end: datetime
    rig: str
    label: str
    words: str


def time_strip(
    stays: Sequence[StayShown],
    logs: Sequence[tuple[str, Sequence[datetime]]],
    said: Sequence[tuple[datetime, str, int | None]] = (),
) -> TimeStrip | None:
    """Return the strip; None where nothing bears a time.

    Logs give moments with frames; `said` are notes and photos: when, words, number of the photo.
    """
    heard = [t for _, own in logs for t in own]
    moments = [s.start for s in stays] + [s.end for s in stays] + heard + [t for t, _, _ in said]
    if not moments:
        return None
    start, end = min(moments), max(moments)
    scale = _Scale(start, max((end - start).total_seconds(), 60.0))
    lanes = {
        rig: Lane(f"rig {rig}" if rig else "", 4 + LANE * i)
        for i, rig in enumerate(sorted({s.rig for s in stays}))
    }
    top = 4 + LANE * max(len(lanes), 1) + 20
    rows = tuple(
        LogRow(
            name=name,
            name_y=top + ROW * i - 3,
            path=" ".join(f"M{scale.at(t)} {top + ROW * i}v8" for t in own),
        )
        for i, (name, own) in enumerate(logs)
    )
    notes = top + ROW * len(logs)
    height = notes + (NOTES if said else 0.0) + 22
    return TimeStrip(
        lanes=tuple(lanes.values()),
        bars=tuple(_bar(s, lanes[s.rig].y, scale) for s in stays),
        logs=rows,
        ticks=_ticks(start, end),
        tick_y=height - 4,
        view_box=f"-4 0 {WIDTH + 8} {height}",
        gaps=_said_gaps(stays, heard),
        said=tuple(
            Said(scale.at(t), notes + 6, f"{t:%H:%M:%S} {words}", photo) for t, words, photo in said
        ),
        start=start,
        seconds_a_unit=scale.span_s / WIDTH,
    )


class _Scale(NamedTuple):
    start: datetime
    span_s: float

    def at(self, moment: datetime) -> float:
        return round(WIDTH * (moment - self.start).total_seconds() / self.span_s, 1)


def _bar(stay: StayShown, y: float, scale: _Scale) -> Bar:
    x, end = scale.at(stay.start), scale.at(stay.end)
    return Bar(
        x=x,
        y=y,
        width=max(end - x, 1.0),
        label_x=x + 5,
        label=stay.label if end - x > 7 * len(stay.label) + 8 else "",
        words=stay.words,
        edges=(
            Edge(stay.pk, "from", x, y, f"{stay.words}: its beginning, {stay.start:%H:%M:%S}"),
            Edge(stay.pk, "to", end, y, f"{stay.words}: its end, {stay.end:%H:%M:%S}"),
        ),
    )


def _ticks(start: datetime, end: datetime) -> tuple[Tick, ...]:
    shape = "%H:%M:%S" if end - start < SHORT else "%H:%M"
    return tuple(
        Tick(
            x=round(WIDTH * k / 6, 1),
            anchor="start" if k == 0 else "end" if k == 6 else "middle",
            words=f"{start + (end - start) * k / 6:{shape}}",
        )
        for k in range(7)
    )


def _said_gaps(stays: Sequence[StayShown], heard: Sequence[datetime]) -> tuple[str, ...]:
    found = list(_gaps(stays, heard)) if heard else []
    more = len(found) - MOST_GAPS
    return (*found[:MOST_GAPS], *([f"And {more} more."] if more > 0 else []))


def _gaps(stays: Sequence[StayShown], heard: Sequence[datetime]) -> Iterator[str]:
    """Yield the stays in which nothing was heard for long, and the frames that lie in none."""
    times = sorted(heard)
    for stay in stays:
        inside = times[bisect_left(times, stay.start) : bisect_right(times, stay.end)]
        for a, b in pairwise([stay.start, *inside, stay.end]):
            if (b - a).total_seconds() >= GAP_S:
                yield f"{stay.words}: no log has a frame from {a:%H:%M:%S} to {b:%H:%M:%S}."
    outside = len(times) - sum(
        bisect_right(times, end) - bisect_left(times, start) for start, end in _together(stays)
    )
    if stays and outside:
        yield f"{outside} marks of frames lie between stays; those frames do not count."


def _together(stays: Sequence[StayShown]) -> list[tuple[datetime, datetime]]:
    """Return the stretches of time that some stay covers, each once."""
    found: list[tuple[datetime, datetime]] = []
    for stay in sorted(stays, key=lambda one: one.start):
        if found and stay.start <= found[-1][1]:
            found[-1] = (found[-1][0], max(found[-1][1], stay.end))
        else:
            found.append((stay.start, stay.end))
    return found


def strip_of(
    walk: Walk, zone: tzinfo = UTC, unplaced: Mapping[int, Sequence[float]] | None = None
) -> TimeStrip | None:
    """Return the strip of time of a walk, from its stays and the frames of its logs, by a zone's clock.

    `unplaced` has, by log, when frames came that lie in no stay [s since 1970]: a timeline is made by
    looking at them.
    """
    more = unplaced or {}
    logs = [
        (file.name[:40], _together_of(_moments(file, zone), more.get(file.pk, ()), zone))
        for file in walk.files.all()
    ]
    logs += [(f"positions, {track.name[:28]}", _points(track, zone)) for track in walk.tracks.all()]
    last = max((own[-1] for _, own in logs if own), default=None)
    shown = [_shown(stay, zone, last) for stay in walk.stays.select_related("stop", "rig")]
    return time_strip(shown, logs, _said(walk, zone))


def _points(track: Track, zone: tzinfo) -> list[datetime]:
    """Return when a track has points, by the walk's clock, thinned to what a strip can show."""
    times = np.frombuffer(bytes(track.points), dtype=np.float64)[: track.count] + track.shift_s
    seconds = np.unique(times.astype(np.int64))
    step = max(len(seconds) // MOST_POINTS, 1)
    return [datetime.fromtimestamp(second, zone) for second in seconds[::step].tolist()]


def _said(walk: Walk, zone: tzinfo) -> list[tuple[datetime, str, int | None]]:
    """Return the notes, looks and photos of a walk in order of time."""
    found: list[tuple[datetime, str, int | None]] = []
    for mark in walk.marks.exclude(kind=Mark.PLACE):
        words = mark.text or mark.get_item_display()
        found.append((mark.at.astimezone(zone), words, None))
    for photo in walk.photos.defer("data"):
        found.append((photo.at.astimezone(zone), f"photo: {photo.text or 'no words'}", photo.pk))
    return sorted(found, key=lambda one: one[0])


def _together_of(
    placed: Sequence[datetime], unplaced: Sequence[float], zone: tzinfo
) -> list[datetime]:
    """Return all moments of a log by the second, each once."""
    more = {datetime.fromtimestamp(int(time_s), zone) for time_s in unplaced}
    return sorted({*placed, *more})


def _shown(stay: Stay, zone: tzinfo, last: datetime | None) -> StayShown:
    start, end = stay.from_time.astimezone(zone), stay.to_time.astimezone(zone)
    if stay.goes_on:  # nobody has said its end: as far as there are frames
        end = max(last or start, start + timedelta(minutes=1))
    rig = stay.rig.letter if stay.rig else ALL_RIGS
    who = f", rig {rig}" if rig else ""
    carried = f", {stay.condition}" if stay.condition else ""
    return StayShown(
        pk=stay.pk,
        start=start,
        end=end,
        rig=rig,
        label=f"{stay.stop.label} {rig}".strip(),
        words=f"stop {stay.stop.label}{who}{carried}, {start:%H:%M} to {end:%H:%M}",
    )


def _moments(file: FrameFile, zone: tzinfo) -> list[datetime]:
    cut = TruncSecond if file.frame_count <= FINE else TruncMinute
    timed = file.frames.filter(heard=True, time__isnull=False)
    found = timed.annotate(at=cut("time")).order_by("at").values_list("at", flat=True).distinct()
    return [moment.astimezone(zone) for moment in found]
