"""A map of a site for one rig: the share of frames expected in every cell.

Over terrain where paths are predicted over it, else by the site's law; walls drawn count in both.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.checks import Floats, within
from inchmark.core.geodesy import Place, map_distances_m
from inchmark.core.link import Link
from inchmark.core.prediction import Paths, Surroundings, expected_share, predict_paths
from inchmark.core.terrain import TerrainGrid
from inchmark.core.terrain_paths import NEAREST_M, losses_from

AROUND = 0.35  # of the sides of what is shown, beyond the outermost thing
LEAST_DEG = 2e-4  # of a side: some 20 m, a small house


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
    if around.walls is not None:
        loss = loss + around.walls.losses_db(fixed, lats, lons, link.frequency_hz)
    share = expected_share(link.allowed_path_loss_db - loss, shadowing_db=around.shadowing_db)
    return MarginMap(lat_deg=lat, lon_deg=lon, share=share.reshape(size, size))


@dataclass(frozen=True, slots=True, kw_only=True)
class Box:
    """What a map shows: its edges [degrees]."""

    south_deg: float
    north_deg: float
    west_deg: float
    east_deg: float

    @classmethod
    def around(cls, spots: Sequence[tuple[float, float]], inside: TerrainGrid | None = None) -> Box:
        """Return a box around latitudes and longitudes [degrees], widened, within a terrain."""
        lats, lons = zip(*spots, strict=True)
        south, north = _widened(lats)
        west, east = _widened(lons)
        if inside is not None:
            south, north = max(south, inside.south_deg), min(north, inside.north_deg)
            west, east = max(west, inside.west_deg), min(east, inside.east_deg)
        return cls(south_deg=south, north_deg=north, west_deg=west, east_deg=east)

    def axes(self, size: int) -> tuple[Floats, Floats]:
        """Return cell centres by row from the north and by column [degrees]."""
        return (
            np.linspace(self.north_deg, self.south_deg, size),
            np.linspace(self.west_deg, self.east_deg, size),
        )


def _widened(degrees: Sequence[float]) -> tuple[float, float]:
    low, high = min(degrees), max(degrees)
    more = AROUND * max(high - low, LEAST_DEG)
    return low - more, high + more


def law_map(
    box: Box, fixed: Place, link: Link, around: Surroundings, *, size: int = 512
) -> MarginMap:
    """Return the share of frames expected in size x size cells by the site's law, walls counted.

    Terrain is not looked at: of a site that is predicted over it, two rays over flat ground are
    drawn.
    """
    within("size", size, 4, 2048)
    lat, lon = box.axes(size)
    lats, lons = (axis.ravel() for axis in np.meshgrid(lat, lon, indexing="ij"))
    frequency, walls = link.frequency_hz, around.walls
    paths = Paths(
        distance_m=np.maximum(map_distances_m(fixed, lats, lons), NEAREST_M),
        height1_m=np.asarray(link.height1_m),
        height2_m=np.asarray(link.height2_m),
        frequency_hz=frequency,
        walls_db=np.nan if walls is None else walls.losses_db(fixed, lats, lons, frequency),
        magnetic=link.magnetic,
    )
    loss = predict_paths(paths, around).loss_db
    share = expected_share(link.allowed_path_loss_db - loss, shadowing_db=around.shadowing_db)
    return MarginMap(lat_deg=lat, lon_deg=lon, share=share.reshape(size, size))


def best_law_map(
    box: Box,
    ends: Sequence[tuple[Place, Link]],
    around: Surroundings,
    *,
    size: int = 512,
    progress: Callable[[float], None] = lambda share: None,
) -> MarginMap:
    """Return in every cell the share of frames at the end that should hear most of them.

    Raises
    ------
    ValueError
        There is no end.
    """
    if not ends:
        raise ValueError("no fixed end has coordinates")
    maps = []
    for i, (place, link) in enumerate(ends):
        maps.append(law_map(box, place, link, around, size=size))
        progress((i + 1) / len(ends))
    return replace(maps[0], share=np.fmax.reduce([one.share for one in maps]))


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
