"""Small files that would unfold, and large ones full of nothing, are refused with a sentence.

How long each takes is printed by `python -m tests.tools.bombs`.
"""

import resource

import numpy as np
import pytest
from rasterio.io import MemoryFile
from rasterio.transform import from_origin

from inchmark.formats import terrain
from tests.tools.bombs import answer_to, bombs

ROOM_MB = 1_500  # a reader that makes arrays by what a file says would want more


def test_each_is_refused_with_a_sentence() -> None:
    for bomb in bombs():
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        _, words = answer_to(bomb)
        grown_mb = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
        assert words.endswith("."), (bomb.name, words or "taken in")
        assert grown_mb < ROOM_MB, bomb.name


def test_terrain_of_many_cells_is_gathered_before_it_is_warped() -> None:
    side = 4000
    rows, columns = np.mgrid[0:side, 0:side]
    heights = (100 + rows / 40 + columns / 80).astype("float32")
    place = {"crs": "EPSG:4326", "transform": from_origin(-22, 47, 1e-5, 1e-5)}
    with MemoryFile() as memory:
        with memory.open(
            driver="GTiff", width=side, height=side, count=1, dtype="float32", **place
        ) as made:
            made.write(heights, 1)
        data = memory.read()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(terrain, "LARGEST_BYTES", len(data))
        grid = terrain.read_terrain(data, "plane.tif")
    lat, lon = grid.north_deg - 0.02, grid.west_deg + 0.02
    row = round((grid.north_deg - lat) / grid.lat_step_deg)
    column = round((lon - grid.west_deg) / grid.lon_step_deg)
    at_row, at_column = (47 - lat) / 1e-5 - 0.5, (lon + 22) / 1e-5 - 0.5
    expected = 100 + at_row / 40 + at_column / 80
    step = max(grid.lat_step_deg, grid.lon_step_deg) / 1e-5
    assert abs(float(grid.heights_m[row, column]) - expected) < step * (1 / 40 + 1 / 80)
