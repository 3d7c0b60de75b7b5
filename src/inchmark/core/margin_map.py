"""A map of a site for one rig: the share of frames expected in every cell, over terrain."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.checks import Floats, within
from inchmark.core.geodesy import Place, distances_m
from inchmark.core.link import Link
from inchmark.core.prediction import Surroundings, expected_share
from inchmark.core.propagation.diffraction import delta_bullington
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.terrain import TerrainGrid

LEAST_POINTS, MOST_POINTS = 8, 400  # along a path; one a cell of the terrain in between
CHUNK_POINTS = 60_000  # points at once, so that the arrays stay in the processor's cache
NEAREST_M = 1.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class MarginMap:
    """Cell centres by row from the north and by column [degrees], and the share in each cell."""

    lat_deg: Floats
    lon_deg: Floats
    share: Floats  # (rows, columns), NaN where no height is known along the path


def margin_map(
    grid: TerrainGrid,
    fixed: Place,
    link: Link,
    around: Surroundings,
    *,
    size: int = 512,
    progress: Callable[[float], None] = lambda share: None,
) -> MarginMap:
    """Return the share of frames expected in size x size cells over the whole terrain.

    Free space and delta-Bullington along every path, then the normal spread between places.

    Raises
    ------
    ValueError
        The fixed end lies outside the terrain.
    """
    within("size", size, 4, 2048)
    if np.isnan(float(grid.height_m(fixed.lat_deg, fixed.lon_deg))):
        raise ValueError("the fixed end lies outside the terrain")
    lat = np.linspace(grid.north_deg, grid.south_deg, size)
    lon = np.linspace(grid.west_deg, grid.east_deg, size)
    lats, lons = (axis.ravel() for axis in np.meshgrid(lat, lon, indexing="ij"))
    away = distances_m(fixed, lats, lons)
    points = np.clip(np.ceil(away / grid.cell_m) + 1, LEAST_POINTS, MOST_POINTS).astype(int)
    order = np.argsort(points, kind="stable")  # paths of like length together
    share = np.empty(len(lats))
    begin = 0
    while begin < len(order):
        chunk = order[begin : begin + max(CHUNK_POINTS // int(points[order[begin]]), 1)]
        count = int(points[chunk[-1]])
        loss = _loss_db(grid, fixed, link, around, (lats[chunk], lons[chunk], away[chunk]), count)
        share[chunk] = expected_share(
            link.allowed_path_loss_db - loss, shadowing_db=around.shadowing_db
        )
        begin += len(chunk)
        progress(begin / len(order))
    return MarginMap(lat_deg=lat, lon_deg=lon, share=share.reshape(size, size))


def best_map(
    grid: TerrainGrid,
    ends: Sequence[tuple[Place, Link]],
    around: Surroundings,
    *,
    size: int = 512,
    progress: Callable[[float], None] = lambda share: None,
) -> MarginMap:
    """Return in every cell the share of frames at the end that should hear most of them.

    Ends outside the terrain hear nothing.

    Raises
    ------
    ValueError
        No end lies inside the terrain.
    """
    inside = [
        (place, link)
        for place, link in ends
        if not np.isnan(float(grid.height_m(place.lat_deg, place.lon_deg)))
    ]
    if not inside:
        raise ValueError("the fixed end lies outside the terrain")
    maps = []
    for i, (place, link) in enumerate(inside):

        def tell(share: float, i: int = i) -> None:
            progress((i + share) / len(inside))

        maps.append(margin_map(grid, place, link, around, size=size, progress=tell))
    return replace(maps[0], share=np.fmax.reduce([one.share for one in maps]))


def _loss_db(
    grid: TerrainGrid,
    fixed: Place,
    link: Link,
    around: Surroundings,
    cells: tuple[Floats, Floats, Floats],
    count: int,
) -> Floats:
    """Return the loss to cells (latitude, longitude, distance [m]) over `count` points a path [dB].

    NaN where a height on the way is not known.
    """
    lat, lon, away = cells
    along = np.linspace(0, 1, count)
    heights = grid.heights_along(fixed, lat, lon, along)
    known = ~np.any(np.isnan(heights), axis=1)
    loss: Floats = np.full(len(away), np.nan)
    if not np.any(known):
        return loss
    metres = np.maximum(away[known], NEAREST_M)
    diffraction = delta_bullington(
        metres[:, None] * along,
        heights[known],
        height1_m=link.height1_m,
        height2_m=link.height2_m,
        frequency_hz=link.frequency_hz,
        polarisation=around.polarisation,
    )
    loss[known] = free_space_loss_db(metres, link.frequency_hz) + diffraction.loss_db
    return loss
