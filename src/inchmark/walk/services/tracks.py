"""Verbs on tracks: bring one, set its clock, measure stops by it, cut a walk that never stands."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.core.gathering.bins import Cutting
from inchmark.core.gathering.log import Lines
from inchmark.core.gathering.shift import ClockShift
from inchmark.core.gathering.way import Point, point_of
from inchmark.formats.timeline_file import read_track
from inchmark.plan.models import Stop
from inchmark.plan.services.site import save_stop, site_of
from inchmark.walk.adapters import tracks as adapters
from inchmark.walk.adapters.logs import said_of
from inchmark.walk.models import FrameFile, Stay, Track, Walk
from inchmark.walk.services.by_recipe import lines_of_log
from inchmark.walk.services.recipes import AT_ONCE_BYTES
from inchmark.walk.services.retention import refuse_without_lines
from inchmark.walk.services.stays import MOST_STAYS, read_by_timeline

MOST_POINTS, MOST_TRACKS, LEAST_POINTS = 200_000, 20, 2


@transaction.atomic
def add_track(walk: Walk, name: str, points: Sequence[Point], *, end: str, by: Any) -> Track:
    """Keep a track.

    Raises
    ------
    ValidationError
        It has too few or too many points, or the walk has too many tracks.
    """
    if not LEAST_POINTS <= len(points) <= MOST_POINTS:
        raise ValidationError(
            f"{name} has {len(points)} points with a time. A track has {LEAST_POINTS} to {MOST_POINTS:,}."
        )
    if walk.tracks.count() >= MOST_TRACKS:
        raise ValidationError(f"A walk has {MOST_TRACKS} tracks at most. Remove one first.")
    times = [point.time_s for point in points]
    return Track.objects.create(
        walk=walk,
        name="".join(c for c in name if c.isprintable())[:200] or "track",
        end=end,
        points=adapters.packed(points),
        count=len(points),
        from_time=datetime.fromtimestamp(min(times), UTC),
        to_time=datetime.fromtimestamp(max(times), UTC),
        by=by,
    )


def add_gpx(walk: Walk, name: str, data: bytes, *, end: str, by: Any) -> Track:
    """Keep the track of a GPX file.

    Raises
    ------
    UnreadableFileError
        It is none.
    """
    return add_track(walk, name, [point_of(*one) for one in read_track(data)], end=end, by=by)


def add_from_log(file: FrameFile, *, end: str, by: Any) -> Track:
    """Keep the positions that a log holds as a track.

    Raises
    ------
    ValidationError
        It holds too few, or cannot be looked through at once.
    """
    points = adapters.fixes_of(_lines(file))
    if len(points) < LEAST_POINTS:
        raise ValidationError(
            f"{file.name} holds {len(points)} positions with a time. Sentences without a date take the day said in its recipe."
        )
    return add_track(file.walk, f"positions of {file.name}", points, end=end, by=by)


@transaction.atomic
def take_places(walk: Walk, labels: Sequence[str]) -> int:
    """Give stops the distances that the tracks measure; return how many.

    Raises
    ------
    ValidationError
        There is nothing to measure by.
    """
    way = _way(walk)
    stops = {stop.label: stop for stop in walk.study.stops.filter(label__in=labels)}
    taken = [one for one in adapters.measured_places(walk, way) if one.stop in stops]
    for one in taken:
        stop = stops[one.stop]
        stop.distance_m, stop.plus_minus_m = round(one.distance_m, 1), round(one.plus_minus_m, 1)
        stop.lat, stop.lon, stop.method = round(one.lat, 7), round(one.lon, 7), "gps"
        save_stop(walk.study, stop)
    return len(taken)


@transaction.atomic
def cut(walk: Walk, *, frames: int | None, metres: float | None, by: Any) -> int:
    """Make stops and stays of a walk that never stands, so many frames or metres each; return how many.

    Raises
    ------
    ValidationError
        The walk has a timeline already, nothing overlaps, or there would be too many bins.
    """
    if walk.stays.exists():
        raise ValidationError("This walk has a timeline. Empty it first, so that nothing is lost.")
    logs = [_lines(file) for file in _readable(walk)]
    try:
        bins = adapters.bins_of(logs, _way(walk), Cutting(frames=frames, metres=metres))
    except ValueError as wrong:
        raise ValidationError(str(wrong)) from wrong
    if len(bins) > MOST_STAYS // 10:
        raise ValidationError(
            f"That gives {len(bins)} bins; {MOST_STAYS // 10} are the most. Cut by more frames or metres."
        )
    prefix = f"{walk.number}." if walk.number > 1 else ""
    for one in bins:
        stop = save_stop(
            walk.study,
            Stop(
                study=walk.study, label=f"{prefix}{one.name}", method="gps",
                distance_m=round(one.distance_m, 1), plus_minus_m=round(one.plus_minus_m, 1),
                lat=round(one.lat, 7), lon=round(one.lon, 7),
                name=f"{one.frames} frames, moving at {one.speed_m_per_s:.1f} m/s",
            ),
        )  # fmt: skip
        Stay.objects.create(
            walk=walk,
            stop=stop,
            by=by,
            from_time=datetime.fromtimestamp(one.from_s, UTC),
            to_time=datetime.fromtimestamp(one.to_s, UTC),
        )
    read_by_timeline(walk)
    return len(bins)


def clocks(walk: Walk) -> ClockShift | None:
    """Return how far the logs' clock is from the tracks', by the levels; None where they do not tell.

    Raises
    ------
    ValidationError
        There is nothing to compare.
    """
    logs = [(_lines(file), said_of(file).constants()) for file in _readable(walk)]
    return adapters.shift_of(logs, _way(walk))


def _way(walk: Walk) -> Any:
    try:
        return adapters.way_of(walk, site_of(walk.study))
    except ValueError as wrong:
        raise ValidationError(str(wrong)) from wrong


def _readable(walk: Walk) -> list[FrameFile]:
    return list(walk.files.read_by_recipe())


def _lines(file: FrameFile) -> Lines:
    if file.recipe is None:
        raise ValidationError(
            f"{file.name} is read without a recipe; its frames bear their own positions, which count already."
        )
    if file.size_bytes > AT_ONCE_BYTES:
        raise ValidationError(
            f"{file.name} is too large to look through at once. Split it by day, and send the parts."
        )
    refuse_without_lines(file)
    return lines_of_log(file)
