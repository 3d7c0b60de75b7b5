"""A kept terrain as the core knows it."""

from __future__ import annotations

import zlib

import numpy as np

from inchmark.core.terrain import TerrainGrid
from inchmark.plan.models import Terrain
from inchmark.studies.models import Study

COVER_HEIGHTS_M = {"open": 0.0, "reeds": 2.0, "trees": 12.0, "houses": 8.0}  # common practice


def grid_of(terrain: Terrain) -> TerrainGrid:
    """Return a kept terrain as the core knows it."""
    shape = terrain.rows, terrain.columns
    heights = np.frombuffer(zlib.decompress(bytes(terrain.heights)), dtype="<f4")
    cover = None
    if terrain.cover is not None:
        cover = np.frombuffer(zlib.decompress(bytes(terrain.cover)), dtype=np.uint8)
    return TerrainGrid(
        north_deg=terrain.north_deg,
        west_deg=terrain.west_deg,
        lat_step_deg=terrain.lat_step_deg,
        lon_step_deg=terrain.lon_step_deg,
        heights_m=heights.reshape(shape),
        cover_m=None if cover is None else cover.reshape(shape).astype(np.float32),
    )


def grid_for(study: Study) -> TerrainGrid | None:
    """Return a study's terrain, None without any."""
    terrain = Terrain.objects.filter(study=study).first()
    return grid_of(terrain) if terrain else None
