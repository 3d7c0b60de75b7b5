"""Timelines and tracks: who stood where, when, as CSV; where somebody was, as GPX with times."""

from __future__ import annotations

import csv
import io
from datetime import date, timezone
from typing import NamedTuple

import gpxpy
import gpxpy.gpx

from inchmark.core.gathering.timeline import Stay
from inchmark.core.recipe.clock import DAY_S, Clock, Kind, kind_of
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.places import refuse_gpx_bomb

COLUMNS = ("from", "to", "stop", "rig", "condition", "receiver", "sent")
REQUIRED = COLUMNS[:3]
LARGEST_BYTES = 8_000_000
GPX_FIXES = {"2d": 1, "3d": 1, "dgps": 2, "pps": 3}  # kinds of GPX 1.1, as GGA numbers them


def read_timeline(data: bytes, *, zone: timezone, day: date | None) -> list[Stay]:
    """Return the stays of a timeline: columns from, to, stop and optionally those of a visit.

    Times without a zone are in `zone`, times of day on `day`; a stay that ends before it begins
    goes over midnight.

    Raises
    ------
    UnreadableFileError
        A column is missing, or a line cannot be read; says which.
    """
    # a line may end as it does on any system; csv itself stumbles over a bare CR
    text = data.decode("utf-8-sig", "replace").replace("\r\n", "\n").replace("\r", "\n")
    try:
        return _read(text, _Moments(zone, day))
    except csv.Error as wrong:
        raise UnreadableFileError(
            f"The timeline is no CSV: {wrong}. Write one stay a line, columns apart by commas."
        ) from None


def _read(text: str, clock: _Moments) -> list[Stay]:
    first = text.split("\n", 1)[0]
    delimiter = max(",;\t", key=first.count)
    rows = csv.DictReader(io.StringIO(text), delimiter=delimiter)
    names = {name: (name or "").strip().lower() for name in rows.fieldnames or ()}
    missing = [name for name in REQUIRED if name not in names.values()]
    if missing:
        raise UnreadableFileError(
            f"The timeline has no column {' and no column '.join(missing)}. It needs from, to and stop."
        )
    if unknown := sorted(set(names.values()) - set(COLUMNS) - {""}):
        raise UnreadableFileError(
            f"The timeline has a column {unknown[0]}, which nobody knows. Known are {', '.join(COLUMNS)}."
        )
    stays = []
    for number, row in enumerate(rows, 2):
        cells = {names[k]: (v or "").strip() for k, v in row.items() if k in names}
        if any(cells.values()):
            stays.append(_stay(cells, number, clock))
    return stays


class _Moments:
    """Reads moments one after another, so that a time of day goes on over midnight."""

    def __init__(self, zone: timezone, day: date | None) -> None:
        self.zone, self.day = zone, day

    def read(self, text: str) -> float:
        kind = kind_of(text)
        if kind not in (Kind.FULL, Kind.CLOCK, Kind.EPOCH_S, Kind.EPOCH_MS):
            raise ValueError(f"“{text[:40]}” is no time")
        moment = Clock(kind, zone=self.zone, day=self.day).read(text)
        if moment is None:
            raise ValueError("times of day need a date (--date)")
        return moment


def _stay(cells: dict[str, str], number: int, clock: _Moments) -> Stay:
    try:
        from_s, to_s = clock.read(cells["from"]), clock.read(cells["to"])
        sent = int(cells["sent"]) if cells.get("sent") else None
    except ValueError as wrong:
        raise UnreadableFileError(f"Timeline, line {number}: {wrong}.") from wrong
    if to_s <= from_s:
        to_s += DAY_S
    if to_s - from_s > DAY_S:
        raise UnreadableFileError(f"Timeline, line {number}: the stay is over a day long.")
    if not cells["stop"]:
        raise UnreadableFileError(f"Timeline, line {number}: the stop is empty.")
    return Stay(
        from_s=from_s,
        to_s=to_s,
        stop=cells["stop"],
        rig=cells.get("rig", ""),
        condition=cells.get("condition", ""),
        receiver=cells.get("receiver", ""),
        sent=sent,
    )


class TrackPoint(NamedTuple):
    """A timed point: time [s since 1970], latitude, longitude [degrees], and what is told of its fix.

    HDOP, satellites, quality as GGA numbers it, age of corrections [s]; None where nobody tells.
    """

    time_s: float
    lat: float
    lon: float
    hdop: float | None
    satellites: float | None
    quality: int | None
    age_s: float | None


def read_track(data: bytes) -> list[TrackPoint]:
    """Return the timed points of a GPX file; those that say they have no fix are left out.

    Raises
    ------
    UnreadableFileError
        It is no GPX, too large, or no point has a time.
    """
    if len(data) > LARGEST_BYTES:
        raise UnreadableFileError("The track is over 8 MB. Cut it down to the walk.")
    refuse_gpx_bomb(data)
    try:
        found = gpxpy.parse(data.decode("utf-8", "replace"))
    except (gpxpy.gpx.GPXException, ValueError) as wrong:
        raise UnreadableFileError(f"The track is no GPX file ({wrong}).") from wrong
    points = [
        TrackPoint(
            point.time.timestamp(),
            point.latitude,
            point.longitude,
            point.horizontal_dilution,
            point.satellites,
            GPX_FIXES.get(point.type_of_gpx_fix or ""),
            point.age_of_dgps_data,
        )
        for track in found.tracks
        for segment in track.segments
        for point in segment.points
        if point.time is not None and point.type_of_gpx_fix != "none"
    ]
    if not points:
        raise UnreadableFileError("No point of the track has a time, so no frame can be placed.")
    return points
