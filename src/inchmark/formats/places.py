"""Places from GPX (waypoints, tracks, routes) and GeoJSON, as rows of stops."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Any

from inchmark.core.geodesy import Place, geodesic
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.geojson import LARGEST_BYTES, kept_name, position, read_object
from inchmark.formats.stops import StopRow

MOST_STOPS = 200
MOST_TRACK_POINTS, MOST_TAGS = 90_000, 900_000  # a point a second for a day, with ten tags each
LEAST_STEP_M = 1.0


def read_places(
    data: bytes,
    name: str,
    *,
    every_m: float | None = None,
    doubling_from_m: float | None = None,
    fixed: Place | None = None,
) -> list[StopRow]:
    """Return the stops of a GPX or GeoJSON file.

    Waypoints and points are stops as they are. A track or line becomes stops every `every_m`
    metres along it, or, with `doubling_from_m` and the fixed end, wherever the distance from the
    fixed end has doubled.

    Raises
    ------
    UnreadableFileError
        The file is neither, holds no point, or a line without a way to place stops along it.
    """
    if len(data) > LARGEST_BYTES:
        raise UnreadableFileError("The file is over 8 MB. Cut the track down first.")
    if name.lower().endswith((".geojson", ".json")):
        points, line = _geojson(data)
    else:
        points, line = _gpx(data)
    if points:
        return _rows(points)
    if not line:
        raise UnreadableFileError("The file holds no point: no waypoint, no track, no route.")
    if doubling_from_m is not None:
        return _rows(_doubling(line, doubling_from_m, fixed))
    if every_m is None:
        raise UnreadableFileError(
            "The file holds a track and no waypoints. Say every how many metres a stop lies."
        )
    return _rows(_every(line, every_m))


Point = tuple[str, float, float, float | None]  # name, lat, lon, height [m]


def _gpx(data: bytes) -> tuple[list[Point], list[Point]]:
    import gpxpy
    import gpxpy.gpx

    refuse_gpx_bomb(data)
    try:
        found = gpxpy.parse(data.decode("utf-8-sig"))
    except (gpxpy.gpx.GPXException, UnicodeDecodeError, ValueError, RecursionError):
        raise UnreadableFileError(
            "The file is no GPX. Export waypoints or a track as GPX, or points as GeoJSON."
        ) from None
    points = [_point(one.name or "", one) for one in found.waypoints]
    segments: list[Any] = [segment.points for track in found.tracks for segment in track.segments]
    segments += [route.points for route in found.routes]
    return points, [_point("", one) for segment in segments for one in segment]


def refuse_gpx_bomb(data: bytes) -> None:
    """Refuse XML that would unfold, nest without end, or hold more points than a track of days.

    Raises
    ------
    UnreadableFileError
        It does.
    """
    if b"<!ENTITY" in data or b"<!DOCTYPE" in data:
        raise UnreadableFileError("The file declares entities, which a GPX file has no use for.")
    if data.count(b"<wpt") > MOST_STOPS:
        raise UnreadableFileError(f"The file holds over {MOST_STOPS} points. Keep the stops only.")
    if data.count(b"<trkpt") + data.count(b"<rtept") > MOST_TRACK_POINTS:
        raise UnreadableFileError(
            f"The track has over {MOST_TRACK_POINTS:,} points. Cut it down to the walk."
        )
    if data.count(b"<") > MOST_TAGS:
        raise UnreadableFileError(
            f"The file has over {MOST_TAGS:,} tags. Cut the track down first."
        )


def _point(name: str, found: Any) -> Point:
    return name, float(found.latitude), float(found.longitude), found.elevation


def _geojson(data: bytes) -> tuple[list[Point], list[Point]]:
    found = read_object(data)
    features = found.get("features", [found]) if found.get("type") else []
    points: list[Point] = []
    line: list[Point] = []
    for feature in features if isinstance(features, list) else []:
        geometry = feature.get("geometry", feature) if isinstance(feature, dict) else None
        if not isinstance(geometry, dict):
            continue
        properties = feature.get("properties")
        name = kept_name(properties.get("name")) if isinstance(properties, dict) else ""
        coordinates = geometry.get("coordinates")
        if geometry.get("type") == "Point":
            points.append((name, *position(coordinates)))
        if geometry.get("type") == "LineString" and isinstance(coordinates, list):
            line += [("", *position(one)) for one in coordinates]
    return points, line


def _every(line: Sequence[Point], step_m: float) -> list[Point]:
    if not step_m >= LEAST_STEP_M:
        raise UnreadableFileError("Stops must lie 1 m apart or more.")
    found, gone = [line[0]], 0.0
    for one, other in pairwise(line):
        length = _apart(one, other)
        while length > 0 and gone + length >= step_m * len(found):
            share = (step_m * len(found) - gone) / length
            found.append(_between(one, other, share))
            if len(found) > MOST_STOPS:
                raise UnreadableFileError(
                    f"That makes over {MOST_STOPS} stops. Put them farther apart."
                )
        gone += length
    return found


def _doubling(line: Sequence[Point], first_m: float, fixed: Place | None) -> list[Point]:
    if fixed is None:
        raise UnreadableFileError("Place the fixed end first: doubling counts from there.")
    if not first_m >= LEAST_STEP_M:
        raise UnreadableFileError("The first stop must lie 1 m away or more.")
    found: list[Point] = []
    wanted = first_m
    for one in line:
        away = geodesic(fixed, Place(lat_deg=one[1], lon_deg=one[2])).distance_m
        if away >= wanted:
            found.append(one)
            while wanted <= away:
                wanted *= 2
    if not found:
        raise UnreadableFileError(f"The track never gets {first_m:g} m away from the fixed end.")
    return found


def _apart(point: Point, other: Point) -> float:
    ends = (Place(lat_deg=p[1], lon_deg=p[2]) for p in (point, other))
    return geodesic(*ends).distance_m


def _between(point: Point, other: Point, share: float) -> Point:
    return (
        "",
        point[1] + share * (other[1] - point[1]),
        point[2] + share * (other[2] - point[2]),
        None,
    )


def _rows(points: Sequence[Point]) -> list[StopRow]:
    if len(points) > MOST_STOPS:
        raise UnreadableFileError(f"The file holds over {MOST_STOPS} points. Keep the stops only.")
    rows = []
    for number, (name, lat, lon, height) in enumerate(points, start=1):
        if not (math.isfinite(lat) and math.isfinite(lon) and abs(lat) <= 90 and abs(lon) <= 180):
            raise UnreadableFileError(f"Point {number} lies at no latitude and longitude.")
        if lat == 0 and lon == 0:
            raise UnreadableFileError(
                f"Point {number} lies at 0, 0, in the sea off Africa: a receiver without a fix writes that. Take it out."
            )
        rows.append(
            StopRow(
                stop=str(number),
                distance_m=None,
                lat=lat,
                lon=lon,
                height_m=height,
                name=kept_name(name),
                method="coordinates",
            )
        )
    return rows
