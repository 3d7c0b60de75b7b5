"""What other programs read of a study: places, walls, tracks and terrain in open formats."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from datetime import UTC, datetime
from typing import Any

from inchmark.plan.models import SiteWall
from inchmark.walk.adapters.tracks import points_of
from inchmark.walk.models import Track


def points_geojson(rows: Iterable[Any], kind: str) -> dict[str, Any]:
    """Return stops or places as GeoJSON points."""
    return {
        "type": "FeatureCollection",
        "features": [
            {
                "type": "Feature",
                "geometry": {"type": "Point", "coordinates": [one.lon, one.lat]},
                "properties": {"kind": kind, "label": one.label, "name": one.name},
            }
            for one in rows
        ],
    }


def walls_geojson(rows: Iterable[SiteWall]) -> dict[str, Any]:
    """Return walls as features that can be brought again."""
    return {
        "type": "FeatureCollection",
        "features": [
            {
                "type": "Feature",
                "geometry": {
                    "type": "LineString",
                    "coordinates": [[lon, lat] for lat, lon in one.points],
                },
                "properties": {
                    name: value
                    for name, value in (
                        ("name", one.name), ("wall", one.kind),
                        ("thickness_m", one.thickness_m), ("loss_db", one.loss_db),
                    )
                    if value not in ("", None)
                },
            }
            for one in rows
        ],
    }  # fmt: skip


def ascii_grid(grid: Any) -> Iterator[bytes]:
    """Yield a terrain as an ASCII grid: square cells only come out true, so both steps are told."""
    rows, columns = grid.heights_m.shape
    head = (
        f"ncols {columns}\nnrows {rows}\nxllcenter {grid.west_deg!r}\nyllcenter {grid.south_deg!r}\n"
        f"dx {grid.lon_step_deg!r}\ndy {grid.lat_step_deg!r}\nNODATA_value -9999\n"
    )
    yield head.encode()
    for line in grid.heights_m:
        yield (
            " ".join("-9999" if one != one else f"{one:.2f}" for one in line.tolist()) + "\n"
        ).encode()


def track_gpx(track: Track) -> bytes:
    """Return a track as GPX 1.1, its times by the walk's clock."""
    import gpxpy.gpx  # a twentieth of a second; only walks with tracks need it

    found = gpxpy.gpx.GPX()
    line = gpxpy.gpx.GPXTrack(name=track.name, description=track.get_end_display())
    segment = gpxpy.gpx.GPXTrackSegment()
    for one in points_of(track):
        dilution = one.hdop if math.isfinite(one.hdop) else None
        segment.points.append(
            gpxpy.gpx.GPXTrackPoint(
                one.lat,
                one.lon,
                time=datetime.fromtimestamp(one.time_s, UTC),
                horizontal_dilution=dilution,
            )
        )
    line.segments.append(segment)
    found.tracks.append(line)
    return str(found.to_xml()).encode()
