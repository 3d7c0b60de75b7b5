"""A map of a site for one rig: the share of frames expected in every cell, over terrain."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.checks import Floats, within
from inchmark.core.geodesy import Place
from inchmark.core.link import Link
from inchmark.core.prediction import Surroundings, expected_share
from inchmark.core.terrain import TerrainGrid
from inchmark.core.terrain_paths import losses_from


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
    loss = losses_from(
        grid,
        fixed,
        lats,
        lons,
        height1_m=link.height1_m,
        height2_m=link.height2_m,
        frequency_hz=link.frequency_hz,
        polarisation=around.polarisation,
        progress=progress,
    )
    share = expected_share(link.allowed_path_loss_db - loss, shadowing_db=around.shadowing_db)
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
