"""Areas of reeds, trees or houses laid onto the cells of a terrain grid."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from inchmark.core.terrain import TerrainGrid

Rings = Sequence[Sequence[Sequence[float]]]  # of [latitude, longitude]; the outer one first


def cover_on(grid: TerrainGrid, areas: Sequence[tuple[Rings, float]]) -> NDArray[np.uint8] | None:
    """Return the height of what stands in each cell [m, whole]; None if nothing does.

    The later of two areas counts. A cell is covered if its middle lies inside an area.
    """
    if not areas:
        return None
    from rasterio.features import rasterize  # half a second; only covered terrain needs it
    from rasterio.transform import from_origin

    transform = from_origin(
        grid.west_deg - grid.lon_step_deg / 2,
        grid.north_deg + grid.lat_step_deg / 2,
        grid.lon_step_deg,
        grid.lat_step_deg,
    )
    shapes = [(_polygon(rings), round(height)) for rings, height in areas]
    found: NDArray[np.uint8] = rasterize(
        shapes, out_shape=grid.heights_m.shape, transform=transform, dtype="uint8"
    )
    return found if found.any() else None


def _polygon(rings: Rings) -> dict[str, Any]:
    return {"type": "Polygon", "coordinates": [[(lon, lat) for lat, lon in r] for r in rings]}
