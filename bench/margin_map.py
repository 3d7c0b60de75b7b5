"""Time a margin map of 512 x 512 cells beside a P.452 map of pycraf over the same HGT tile.

pycraf is GPL and no dependency of the app: it runs in a Python of its own and knows one thread; ours
takes all cores, and one alone for the second figure.

Usage: .venv/bin/python -m bench.margin_map [PYTHON-WITH-PYCRAF]
       (python3 -m venv /tmp/pycraf && /tmp/pycraf/bin/pip install pycraf)
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

from inchmark.core.geodesy import Place
from inchmark.core.link import Link
from inchmark.core.margin_map import margin_map
from inchmark.core.prediction import Surroundings
from inchmark.core.terrain import TerrainGrid
from inchmark.formats.terrain import read_terrain

SIZE, RUNS = 512, 3
TILE, CELLS, STEP_DEG = "N47W021", 1201, 3 / 3600
LAT, LON = 47.5, -20.5
HALF_DEG = SIZE / 2 * STEP_DEG
THEIRS = """
import json, sys, time, warnings
warnings.simplefilter("ignore")
from astropy import units as u
from pycraf import pathprof

spec = json.load(sys.stdin)
pathprof.SrtmConf.set(srtm_dir=spec["folder"], download="never")
times = []
for _ in range(spec["runs"]):
    begin = time.perf_counter()
    profiles = pathprof.height_map_data(
        spec["lon"] * u.deg, spec["lat"] * u.deg,
        spec["size_deg"] * u.deg, spec["size_deg"] * u.deg, map_resolution=3 * u.arcsec,
        do_cos_delta=False,
    )
    found = pathprof.atten_map_fast(
        0.868 * u.GHz, 288 * u.K, 1013 * u.hPa, 5 * u.m, 1 * u.m, 50 * u.percent, profiles,
        polarization=1,
    )
    times.append(time.perf_counter() - begin)
print(json.dumps({"cells": int(found["L_b"].size), "times": times}))
"""


def tile() -> bytes:
    """Return an invented HGT tile: long waves, short ones, a ridge."""
    row, column = np.mgrid[0:CELLS, 0:CELLS]
    heights = 60 + 40 * np.sin(column / 90) * np.cos(row / 120) + 8 * np.sin(column / 7 + row / 11)
    heights += 90 * np.exp(-(((column - row / 3 - 300) / 25) ** 2))
    return bytes(heights.astype(">i2").tobytes())


def ours(grid: TerrainGrid) -> float:
    """Return the seconds of one map of ours."""
    link = Link(
        height1_m=5.0,
        height2_m=1.0,
        frequency_hz=868e6,
        reference_dbm=16.0,
        threshold_dbm=-123.0,
    )
    begin = time.perf_counter()
    margin_map(grid, Place(lat_deg=LAT, lon_deg=LON), link, Surroundings(), size=SIZE)
    return time.perf_counter() - begin


def cut(grid: TerrainGrid) -> TerrainGrid:
    """Return the part of the tile the map covers."""
    top = round((grid.north_deg - (LAT + HALF_DEG)) / grid.lat_step_deg)
    left = round((LON - HALF_DEG - grid.west_deg) / grid.lon_step_deg)
    return TerrainGrid(
        north_deg=grid.north_deg - top * grid.lat_step_deg,
        west_deg=grid.west_deg + left * grid.lon_step_deg,
        lat_step_deg=grid.lat_step_deg,
        lon_step_deg=grid.lon_step_deg,
        heights_m=grid.heights_m[top : top + SIZE + 1, left : left + SIZE + 1],
    )


def theirs(python: str, folder: Path) -> dict[str, object]:
    """Return what pycraf took for the same terrain."""
    spec = {"folder": str(folder), "lon": LON, "lat": LAT, "size_deg": 2 * HALF_DEG, "runs": RUNS}
    environment = {**os.environ, "OMP_NUM_THREADS": "1"}
    found = subprocess.run(
        [python, "-c", THEIRS],
        input=json.dumps(spec),
        capture_output=True,
        text=True,
        env=environment,
        check=True,
    )
    return dict(json.loads(found.stdout.strip().splitlines()[-1]))


def main() -> None:
    """Print medians and the ratio per cell."""
    data = tile()
    with tempfile.TemporaryDirectory() as scratch:
        (Path(scratch) / f"{TILE}.hgt").write_bytes(data)
        grid = cut(read_terrain(data, f"{TILE}.hgt"))
        ours(grid)  # the loops are compiled once on a machine
        mine = sorted(ours(grid) for _ in range(RUNS))[RUNS // 2]
        cores = os.sched_getaffinity(0)
        print(f"ours: {mine:.2f} s for {SIZE} x {SIZE} cells, {1e6 * mine / SIZE**2:.1f} us a cell")
        os.sched_setaffinity(0, [min(cores)])
        alone = sorted(ours(grid) for _ in range(RUNS))[RUNS // 2]
        os.sched_setaffinity(0, cores)
        print(f"ours on one of {len(cores)} cores: {1e6 * alone / SIZE**2:.1f} us a cell")
        if len(sys.argv) < 2:
            print("no Python with pycraf was named, so nothing to hold it against")
            return
        other = theirs(sys.argv[1], Path(scratch))
        median = sorted(other["times"])[RUNS // 2]
        cells = other["cells"]
        print(f"pycraf: {median:.2f} s for {cells} cells, {1e6 * median / cells:.1f} us a cell")
        for name, seconds in (("all cores", mine), ("one core", alone)):
            print(f"pycraf / ours per cell, {name}: {median / cells / (seconds / SIZE**2):.1f}")


if __name__ == "__main__":
    main()
