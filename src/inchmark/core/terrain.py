"""A grid of terrain heights by latitude and longitude, and profiles cut through it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy import ndimage

from inchmark.core.checks import Floats
from inchmark.core.geodesy import Place, distances_m

SLACK = 1e-9  # of a cell: a place on the edge is inside
POINTS = (20, 28, 40, 57, 80, 113, 160, 226, 320, 400)  # few lengths, so paths can go together


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class TerrainGrid:
    """Heights above sea level [m], NaN where unknown; rows run south from `north_deg`.

    `north_deg` and `west_deg` are the centre of the first cell, steps are positive [degrees].
    `cover_m` is what stands on the ground [m] in the same cells, None where nothing is known of it.
    Cover that an end of a path stands in counts for no obstacle: what an antenna inside a wood or
    among houses loses is worked out by models of their own.
    """

    north_deg: float
    west_deg: float
    lat_step_deg: float
    lon_step_deg: float
    heights_m: NDArray[np.float32]
    cover_m: NDArray[np.float32] | None = None

    def __post_init__(self) -> None:
        """Refuse a grid that is none."""
        rows, columns = self.heights_m.shape
        if rows < 2 or columns < 2 or not (self.lat_step_deg > 0 and self.lon_step_deg > 0):
            raise ValueError("a terrain grid needs two rows and two columns, and steps above 0")
        if self.cover_m is not None and self.cover_m.shape != self.heights_m.shape:
            raise ValueError("cover_m must have the shape of heights_m")

    @property
    def south_deg(self) -> float:
        """Return the latitude of the last row."""
        return self.north_deg - self.lat_step_deg * float(self.heights_m.shape[0] - 1)

    @property
    def east_deg(self) -> float:
        """Return the longitude of the last column."""
        return self.west_deg + self.lon_step_deg * float(self.heights_m.shape[1] - 1)

    def height_m(self, lat_deg: ArrayLike, lon_deg: ArrayLike) -> Floats:
        """Return heights [m] between the four nearest cells; NaN outside and where unknown."""
        row = (self.north_deg - np.asarray(lat_deg, dtype=np.float64)) / self.lat_step_deg
        column = (np.asarray(lon_deg, dtype=np.float64) - self.west_deg) / self.lon_step_deg
        rows, columns = self.heights_m.shape
        inside = (
            (row >= -SLACK)
            & (row <= rows - 1 + SLACK)
            & (column >= -SLACK)
            & (column <= columns - 1 + SLACK)
        )
        found: Floats = np.where(inside, bilinear(self.heights_m, np.stack([row, column])), np.nan)
        return found

    @property
    def cell_m(self) -> float:
        """Return the size of a cell [m], the smaller side."""
        middle = np.radians((self.north_deg + self.south_deg) / 2)
        return float(111_320 * min(self.lat_step_deg, self.lon_step_deg * np.cos(middle)))

    def profile(self, start: Place, end: Place) -> tuple[Floats, Floats]:
        """Return distances from the start [m] and heights [m] along a path, a point every cell.

        Raises
        ------
        ValueError
            Some of the path lies outside the grid or where no height is known.
        """
        found = self.profiles(start, [end.lat_deg], [end.lon_deg])[0]
        if found is None:
            raise ValueError("the terrain does not cover the whole path")
        return found

    def profiles(
        self, start: Place, lat_deg: ArrayLike, lon_deg: ArrayLike
    ) -> list[tuple[Floats, Floats] | None]:
        """Return the profiles to many ends, None where the terrain does not cover the whole path.

        A point every cell or closer, in one of the counts `POINTS`, up to the largest of them.
        """
        lat, lon = np.asarray(lat_deg, dtype=np.float64), np.asarray(lon_deg, dtype=np.float64)
        away = distances_m(start, lat, lon)
        at = np.searchsorted(POINTS, away / self.cell_m + 1)
        counts = np.asarray(POINTS)[np.minimum(at, len(POINTS) - 1)]
        found: list[tuple[Floats, Floats] | None] = [None] * len(away)
        for count in np.unique(counts):
            rows, share = np.flatnonzero(counts == count), np.linspace(0, 1, int(count))
            heights = self.height_m(
                start.lat_deg + share * (lat[rows, None] - start.lat_deg),
                start.lon_deg + share * (lon[rows, None] - start.lon_deg),
            )
            if self.cover_m is not None:
                cover = self._cover(self.cover_m, start, lat[rows], lon[rows], share)
                heights = heights + standing_clear(cover)
            for row, height in zip(rows.tolist(), heights, strict=True):
                if away[row] > 0 and not np.any(np.isnan(height)):
                    found[row] = share * away[row], height
        return found

    def _cover(
        self,
        cover_m: NDArray[np.float32],
        start: Place,
        lat_deg: Floats,
        lon_deg: Floats,
        share: Floats,
    ) -> Floats:
        """Return the cover of the nearest cells along straight lines [m], shape (ends, shares)."""
        lat = start.lat_deg + share * (lat_deg[:, None] - start.lat_deg)
        lon = start.lon_deg + share * (lon_deg[:, None] - start.lon_deg)
        rows, columns = cover_m.shape
        row = np.rint((self.north_deg - lat) / self.lat_step_deg).astype(int)
        column = np.rint((lon - self.west_deg) / self.lon_step_deg).astype(int)
        found: Floats = cover_m[np.clip(row, 0, rows - 1), np.clip(column, 0, columns - 1)]
        return found


def standing_clear(cover_m: Floats) -> Floats:
    """Return cover along paths [m] without the stretches that reach either end.

    Shape (…, points).
    """
    covered = cover_m > 0
    from_start = np.logical_and.accumulate(covered, axis=-1)
    from_end = np.logical_and.accumulate(covered[..., ::-1], axis=-1)[..., ::-1]
    clear: Floats = np.where(from_start | from_end, 0.0, cover_m)
    clear[..., [0, -1]] = 0.0
    return clear


def bilinear(grid: NDArray[np.float32], places: Floats) -> Floats:
    """Return a grid's values between its four nearest cells, the edge's beyond it.

    `places` are rows and columns, shape (2, …); the values come in the shape that is left.
    """
    found: Floats = ndimage.map_coordinates(
        grid, places.reshape(2, -1), order=1, mode="nearest", prefilter=False, output=np.float64
    )
    return found.reshape(places.shape[1:])
