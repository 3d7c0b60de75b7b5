"""The site from above: contour lines of the terrain, bands of a rig's map, marks, as plain data."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any

import numpy as np
from contourpy import contour_generator
from django.urls import reverse

from inchmark.core.budget import link_budget
from inchmark.core.margin_map import Link, MarginMap
from inchmark.core.terrain import TerrainGrid
from inchmark.plan.models import Site, SiteMap, Stop, Terrain
from inchmark.shelf.models import Rig
from inchmark.shelf.records.ends import carried_end, fixed_end, sensitivity_of
from inchmark.studies.models import Study

BAND_EDGES = (0.0, 0.1, 0.5, 0.9, 0.99, 1.001)  # shares of frames
LINES = 12  # contour lines at most, at a round step
LEAST_HEIGHT_M = 0.1
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
        for line in generator.lines(float(level))
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


def link_of(rig: Rig, site: Site) -> Link:
    """Return what a map needs of a rig."""
    lossless = link_budget(carried_end(rig), fixed_end(rig), path_loss_db=0.0, path_source="")
    return Link(
        height1_m=max(rig.fixed_height_m, LEAST_HEIGHT_M),
        height2_m=max(rig.height_m, LEAST_HEIGHT_M),
        frequency_hz=rig.frequency_hz,
        lossless_dbm=lossless.arriving_dbm,
        threshold_dbm=sensitivity_of(rig).dbm,
        shadowing_db=site.shadowing_db,
        polarisation=site.polarisation,
    )


def map_data(
    study: Study, site: Site | None, stops: Sequence[Stop], terrain: Terrain | None,
    drawn: SiteMap | None,
) -> dict[str, Any]:  # fmt: skip
    """Return what the map shows; places without coordinates are left out."""
    placed = site is not None and site.lat is not None and site.lon is not None
    return {
        "fixed": [site.lat, site.lon, str(site)] if site and placed else None,
        "stops": [
            [stop.label, stop.name, stop.lat, stop.lon,
             reverse("plan:stop-move", args=[study.pk, stop.pk])]
            for stop in stops
            if stop.lat is not None and stop.lon is not None
        ],
        "add": reverse("plan:stop-add", args=[study.pk]),
        "needed": study.needed_m,
        "contours": terrain.contours if terrain else [],
        "bands": drawn.bands if drawn else [],
    }  # fmt: skip
