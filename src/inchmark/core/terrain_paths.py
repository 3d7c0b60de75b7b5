"""Losses from one place to very many over a terrain grid: for maps, and for receivers looked for."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from inchmark.core.checks import Floats, positive
from inchmark.core.constants import EARTH_RADIUS_M
from inchmark.core.geodesy import Place, map_distances_m
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.propagation.geometry import MEDIAN_K
from inchmark.core.propagation.spherical_earth import LAND
from inchmark.core.terrain import TerrainGrid

LEAST_POINTS, MOST_POINTS = 8, 400  # along a path; one a cell of the terrain in between
PIECE = 8192  # paths a thread takes at once: short enough to tell how far it is
NEAREST_M = 1.0


def losses_from(
    grid: TerrainGrid,
    start: Place,
    lat_deg: Floats,
    lon_deg: Floats,
    *,
    height1_m: float,
    height2_m: ArrayLike,
    frequency_hz: float,
    polarisation: str = "vertical",
    progress: Callable[[float], None] = lambda share: None,
) -> Floats:
    """Return free space and delta-Bullington to many places, shape (places,) [dB].

    NaN where a height on the way is not known; places outside the grid stand on its edge. The
    antenna heights are above the ground, of the start and of each place [m].
    """
    frequency = float(positive("frequency_hz", frequency_hz))
    lat, lon, height2 = np.broadcast_arrays(lat_deg, lon_deg, np.asarray(height2_m, dtype=float))
    ends_m = np.stack([np.full(lat.shape, float(height1_m)), height2], axis=1)
    radio = np.array([frequency / 1e9, MEDIAN_K * EARTH_RADIUS_M / 1000, *_ground(polarisation)])
    losses = _compiled()
    paths, out = _Paths.of(grid, start), np.empty(lat.shape)

    def piece(at: slice) -> int:
        away = np.maximum(map_distances_m(start, lat[at], lon[at]), NEAREST_M)
        rows, columns = _cells(grid, lat[at], lon[at])
        counts = np.clip(np.ceil(away / grid.cell_m) + 1, LEAST_POINTS, MOST_POINTS)
        losses(
            paths.heights, paths.cover, paths.start, rows, columns, away / 1000,
            counts.astype(np.int64), ends_m[at], radio, out[at],
        )  # fmt: skip
        out[at] += free_space_loss_db(away, frequency)
        return len(away)

    pieces = [slice(i, min(i + PIECE, len(out))) for i in range(0, len(out), PIECE)]
    if len(pieces) < 2:  # a thread costs more than a few paths
        for at in pieces:
            piece(at)
        progress(1.0)
        return out
    done = 0
    with ThreadPoolExecutor(max(len(os.sched_getaffinity(0)), 1)) as pool:
        for count in pool.map(piece, pieces):
            done += count
            progress(done / len(out))
    return out


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Paths:
    """A grid as the compiled loops take it, and the cell of the common end."""

    heights: Floats
    cover: NDArray[np.float32]
    start: Floats

    @classmethod
    def of(cls, grid: TerrainGrid, start: Place) -> _Paths:
        cover = grid.cover_m if grid.cover_m is not None else np.empty((0, 0), dtype=np.float32)
        here = _cells(grid, np.array([start.lat_deg]), np.array([start.lon_deg]))
        return cls(
            heights=np.ascontiguousarray(grid.heights_m, dtype=np.float64),
            cover=np.ascontiguousarray(cover, dtype=np.float32),
            start=np.concatenate(here),
        )


def _compiled() -> Callable[..., None]:
    # numba takes most of a second to load: only what draws or looks for receivers waits for it
    from inchmark.core.propagation.compiled import losses_over

    found: Callable[..., None] = losses_over
    return found


def _ground(polarisation: str) -> tuple[float, float, float]:
    return LAND.permittivity, LAND.conductivity_s_m, float(polarisation == "vertical")


def _cells(grid: TerrainGrid, lat: Floats, lon: Floats) -> tuple[Floats, Floats]:
    """Return rows and columns of places, those outside on the edge."""
    rows, columns = grid.heights_m.shape
    row = (grid.north_deg - np.asarray(lat, dtype=np.float64)) / grid.lat_step_deg
    column = (np.asarray(lon, dtype=np.float64) - grid.west_deg) / grid.lon_step_deg
    return np.clip(row, 0, rows - 1), np.clip(column, 0, columns - 1)
