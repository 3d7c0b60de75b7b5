"""Tracks of a walk as the core reads them, and what the logs tell of times, levels and positions."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Sequence

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.gathering.bins import Bin, Cutting, cut_into_bins
from inchmark.core.gathering.log import Lines
from inchmark.core.gathering.shift import ClockShift, clock_shift
from inchmark.core.gathering.source import Constants
from inchmark.core.gathering.way import MeasuredPlace, Point, Way, point_of
from inchmark.core.geodesy import Place
from inchmark.core.recipe.names import Act
from inchmark.plan.models import Site
from inchmark.walk.adapters.logs import timeline_of
from inchmark.walk.models import Track, Walk

NO_FIXED_END = "Where the fixed end stands is not said. Put it on the plan, or bring its own track."
NO_CARRIED = "No track of the carried end is there yet."


def packed(points: Sequence[Point]) -> bytes:
    """Return points as the bytes that are kept."""
    return np.array(points, dtype=np.float64).T.tobytes()


def points_of(track: Track) -> list[Point]:
    """Return a track's points by the walk's clock."""
    table = np.frombuffer(bytes(track.points), dtype=np.float64).reshape(-1, track.count)
    return [Point(t + track.shift_s, *more) for t, *more in table.T.tolist()]


def way_of(walk: Walk, site: Site | None) -> Way:
    """Return where the ends of a walk were.

    Raises
    ------
    ValueError
        A track or the fixed end's place is missing; says which.
    """
    tracks = list(walk.tracks.all())
    carried = [p for t in tracks if t.end == Track.CARRIED for p in points_of(t)]
    moving = [p for t in tracks if t.end == Track.FIXED for p in points_of(t)]
    if not carried:
        raise ValueError(NO_CARRIED)
    if moving:
        return Way(carried, moving)
    if site is None or site.lat is None or site.lon is None:
        raise ValueError(NO_FIXED_END)
    return Way(carried, Place(lat_deg=site.lat, lon_deg=site.lon))


def measured_places(walk: Walk, way: Way) -> list[MeasuredPlace]:
    """Return the stops of a walk's timeline as its tracks have them."""
    return way.places(timeline_of(walk).stays)


def fixes_of(lines: Lines) -> list[Point]:
    """Return the positions with a time that a log holds."""
    return [point_of(*fix[1:]) for fix in lines.fixes]


def bins_of(logs: Iterable[Lines], way: Way, by: Cutting) -> list[Bin]:
    """Return the bins of all frames that logs tell of.

    Raises
    ------
    ValueError
        No frame lies on the track.
    """
    times = [
        told.time_s for lines in logs for told in lines.told
        if told.act is not Act.SENT and told.time_s is not None
    ]  # fmt: skip
    return cut_into_bins(np.array(times, dtype=np.float64), way, by)


def shift_of(logs: Iterable[tuple[Lines, Constants]], way: Way) -> ClockShift | None:
    """Return how far the logs' clock is from the tracks', by the levels of the rig most was heard of."""
    rows = [row for lines, constants in logs for _, row in constants.rows(lines.told)]
    known = [row for row in rows if row.heard and row.time_s and row.rssi_dbm is not None]
    if not known:
        return None
    rig = Counter(row.rig for row in known).most_common(1)[0][0]
    own = [row for row in known if row.rig == rig]
    return clock_shift(_floats(r.time_s for r in own), _floats(r.rssi_dbm for r in own), way)


def _floats(values: Iterable[float | None]) -> Floats:
    return np.array([np.nan if value is None else value for value in values], dtype=np.float64)
