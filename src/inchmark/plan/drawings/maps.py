"""The site from above: contour lines of the terrain, bands of a rig's map, marks, as plain data."""

from __future__ import annotations

import itertools
from bisect import bisect_right
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, cast
from urllib.parse import urlsplit

import numpy as np
from contourpy import contour_generator
from django.urls import reverse

from inchmark.core.margin_map import MarginMap
from inchmark.core.planning.on_route import OnRoute
from inchmark.core.terrain import TerrainGrid
from inchmark.plan.adapters.predictions import StopCells
from inchmark.plan.models import Site, SiteFeatures, SiteMap, SitePoint, Stop, Terrain
from inchmark.studies.models import Study

BAND_EDGES = (0.0, 0.1, 0.5, 0.9, 0.99, 1.001)  # shares of frames


LINES = 12  # contour lines at most, at a round step


DIGITS = 6  # of a degree: a tenth of a metre


def contours_of(grid: TerrainGrid) -> list[list[Any]]:
    """Return the contour lines of a terrain: height [m] and points [lat, lon]."""
    heights = np.asarray(grid.heights_m, dtype=np.float64)
    low, high = float(np.nanmin(heights)), float(np.nanmax(heights))
    step = _round_step((high - low) / LINES)
    generator = contour_generator(*_axes(grid), np.ma.masked_invalid(heights))
    levels = np.arange(np.ceil(low / step) * step, high, step)
    return [
        [round(float(level), 2), _points(line)]
        for level in levels
        for line in cast("list[np.ndarray]", generator.lines(float(level)))
        if len(line) > 3
    ]


def _axes(grid: TerrainGrid) -> tuple[np.ndarray, np.ndarray]:
    rows, columns = grid.heights_m.shape
    lon = np.linspace(grid.west_deg, grid.east_deg, columns)
    return lon, np.linspace(grid.north_deg, grid.south_deg, rows)


def _round_step(step: float) -> float:
    size = 10 ** np.floor(np.log10(max(step, 0.01)))
    return float(next(size * n for n in (1, 2, 5, 10) if size * n >= step))


def _points(line: np.ndarray) -> list[list[float]]:
    return [[round(float(lat), DIGITS), round(float(lon), DIGITS)] for lon, lat in line]


def bands_of(found: MarginMap) -> list[list[Any]]:
    """Return a map's bands: from and to [share], and polygons as rings of [lat, lon]."""
    share = np.ma.masked_invalid(found.share)
    generator = contour_generator(found.lon_deg, found.lat_deg, share, fill_type="OuterOffset")
    bands = []
    for low, high in itertools.pairwise(BAND_EDGES):
        rings = []
        for points, offsets in zip(*generator.filled(low, high), strict=True):
            edges = itertools.pairwise(offsets)
            rings.append([_points(_thinned(points[a:b])) for a, b in edges])
        bands.append([low, min(high, 1.0), rings])
    return bands


def _thinned(ring: np.ndarray) -> np.ndarray:
    """Return every second point of a long ring; the eye does not miss them."""
    return ring if len(ring) < 40 else np.concatenate([ring[:-1:2], ring[-1:]])


@dataclass(frozen=True, slots=True, kw_only=True)
class OnMap:
    """What a study has to show from above."""

    site: Site | None
    stops: Sequence[Stop]
    points: Sequence[SitePoint]
    terrain: Terrain | None
    features: SiteFeatures | None
    drawn: SiteMap | None
    nodes: Sequence[StopCells]  # the needed places as one rig reaches them
    walls: Sequence[list[Any]] = ()  # name, points, what a crossing costs [dB]
    next_place: OnRoute | None = None  # where to stand next, as the walk says
    next_why: str = ""


def map_data(study: Study, found: OnMap) -> dict[str, Any]:
    """Return what the map shows as plain data; places without coordinates are left out."""
    site = found.site
    placed = site is not None and site.lat is not None and site.lon is not None
    return {
        "fixed": [site.lat, site.lon, str(site)] if site and placed else None,
        "stops": [
            [stop.label, stop.name, stop.lat, stop.lon, _move(study, "stop", stop.pk)]
            for stop in found.stops
            if stop.lat is not None and stop.lon is not None
        ],
        "points": [
            [one.label, one.name, one.lat, one.lon, _move(study, "point", one.pk), one.kind]
            for one in found.points
        ],
        "next": _next(found),
        "shares": {row.stop.label: _share(row) for row in found.nodes if row.cells},
        "add": {
            "Add a stop here": reverse("plan:stop-add", args=[study.pk]),
            "A node is needed here": reverse("plan:point-add", args=[study.pk]),
        },
        "needed": study.needed_m,
        "contours": found.terrain.contours if found.terrain else [],
        "bands": found.drawn.bands if found.drawn else [],
        "features": found.features.features if found.features else [],
        "walls": found.walls,
        "wall": reverse("plan:wall-add", args=[study.pk]),
        "tiles": [site.tiles_url, site.tiles_credit] if site and site.tiles_url else None,
    }


def _next(found: OnMap) -> list[Any] | None:
    at = found.next_place
    return [at.place.lat_deg, at.place.lon_deg, at.words, found.next_why] if at else None


def _move(study: Study, noun: str, pk: int) -> str:
    return reverse(f"plan:{noun}-move", args=[study.pk, pk])


def _share(row: StopCells) -> list[Any]:
    """Return the share of frames expected, and its band as `BAND_EDGES` has them, from 1."""
    share = row.cells[0].stop.expected_share
    return [share, bisect_right(BAND_EDGES, share)]


def tiles_origin(site: Site | None) -> str:
    """Return where a site's own pictures come from, for the page's policy; empty without any."""
    if site is None or not site.tiles_url:
        return ""
    parts = urlsplit(site.tiles_url)
    return f"{parts.scheme}://{parts.netloc}"
