"""The strip of time of a walk: stays as bars, and the frames of each log under them."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import NamedTuple

from django.db.models.functions import TruncMinute, TruncSecond

from inchmark.walk.models import FrameFile, Stay, Walk

WIDTH, ROW, TOP = 960.0, 26.0, 44.0
FINE = 20_000  # frames; a log with more is drawn by the minute


class Bar(NamedTuple):
    """A stay on the strip."""

    x: float
    width: float
    label_x: float
    label: str
    words: str


class LogRow(NamedTuple):
    """A log on the strip: its name and where it has frames."""

    name: str
    name_y: float
    path: str


class Tick(NamedTuple):
    """A time under the strip."""

    x: float
    anchor: str
    words: str


class TimeStrip(NamedTuple):
    """A walk as a strip of time."""

    bars: tuple[Bar, ...]
    logs: tuple[LogRow, ...]
    ticks: tuple[Tick, ...]
    tick_y: float
    view_box: str


class StayShown(NamedTuple):
    """A stay as the strip shows it."""

    start: datetime
    end: datetime
    label: str
    words: str


def time_strip(
    stays: Sequence[StayShown], logs: Sequence[tuple[str, Sequence[datetime]]]
) -> TimeStrip | None:
    """Return the strip; None where nothing bears a time. Logs give moments with frames."""
    moments = (
        [s.start for s in stays] + [s.end for s in stays] + [t for _, own in logs for t in own]
    )
    if not moments:
        return None
    start, end = min(moments), max(moments)
    span = max((end - start).total_seconds(), 60.0)

    def at(moment: datetime) -> float:
        return round(WIDTH * (moment - start).total_seconds() / span, 1)

    bars = tuple(
        Bar(
            x=at(s.start),
            width=max(at(s.end) - at(s.start), 1.0),
            label_x=at(s.start) + 3,
            label=s.label,
            words=s.words,
        )
        for s in stays
    )
    rows = tuple(
        LogRow(
            name=name,
            name_y=TOP + ROW * i - 3,
            path=" ".join(f"M{at(t)} {TOP + ROW * i}v8" for t in own),
        )
        for i, (name, own) in enumerate(logs)
    )
    height = TOP + ROW * len(logs) + 22
    ticks = tuple(
        Tick(
            x=round(WIDTH * k / 6, 1),
            anchor="start" if k == 0 else "end" if k == 6 else "middle",
            words=f"{start + (end - start) * k / 6:%H:%M}",
        )
        for k in range(7)
    )
    return TimeStrip(
        bars=bars, logs=rows, ticks=ticks, tick_y=height - 4, view_box=f"-4 0 {WIDTH + 8} {height}"
    )


def strip_of(walk: Walk) -> TimeStrip | None:
    """Return the strip of time of a walk, from its stays and the frames of its logs."""
    rows = walk.stays.select_related("stop", "rig")
    shown = [
        StayShown(start=s.from_time, end=s.to_time, label=_label(s), words=str(s)) for s in rows
    ]
    return time_strip(shown, [(file.name[:40], _moments(file)) for file in walk.files.all()])


def _label(stay: Stay) -> str:
    return f"{stay.stop.label} {stay.rig.letter if stay.rig else ''}".strip()


def _moments(file: FrameFile) -> list[datetime]:
    cut = TruncSecond if file.frame_count <= FINE else TruncMinute
    timed = file.frames.filter(heard=True, time__isnull=False)
    return list(
        timed.annotate(at=cut("time")).order_by("at").values_list("at", flat=True).distinct()
    )
