"""Files that are small and would unfold, or as large as is taken and full of nothing: each a reader must refuse.

    python -m tests.tools.bombs        # prints how long each was looked at, and the sentence

Exit code 1 where one is taken in, fails without a sentence, or takes a second.
"""

from __future__ import annotations

import io
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from inchmark.formats.current_trace import read_current
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.features import read_features
from inchmark.formats.ladder_log import ladder_steps
from inchmark.formats.places import read_places
from inchmark.formats.recipe_file import read_recipes
from inchmark.formats.shelf_file import read_shelf
from inchmark.formats.stops import read_stops
from inchmark.formats.terrain import read_terrain
from inchmark.formats.timeline_file import read_timeline, read_track
from inchmark.formats.touchstone import read_touchstone

MB = 2**20
LAUGHS = (
    '<?xml version="1.0"?><!DOCTYPE gpx [<!ENTITY a "ha">'
    + "".join(f'<!ENTITY {c} "{"&" + p + ";" * 1}{("&" + p + ";") * 9}">' for p, c in zip("abcdefghi", "bcdefghij", strict=True))
    + "]><gpx><wpt lat='1' lon='2'><name>&j;</name></wpt></gpx>"
)  # fmt: skip


@dataclass(frozen=True)
class Bomb:
    """A file, and who has to refuse it."""

    name: str
    data: bytes
    read: Callable[[bytes], object]


def geotiff(side: int) -> bytes:
    """Return an empty raster of side x side heights, nearly nothing once packed."""
    import numpy as np
    import rasterio
    from rasterio.io import MemoryFile
    from rasterio.transform import from_origin

    packed = {"compress": "deflate", "tiled": True, "SPARSE_OK": "TRUE"}
    grid = {"width": side, "height": side, "count": 1, "dtype": np.int16}
    with rasterio.Env(), MemoryFile() as memory:
        place = {"crs": "EPSG:4326", "transform": from_origin(-22, 47, 1e-5, 1e-5)}
        with memory.open(driver="GTiff", **grid, **place, **packed):
            pass
        return memory.read()


def nested(depth: int) -> bytes:
    """Return JSON that opens and opens."""
    return b'{"a":' * depth + b"1" + b"}" * depth


def bombs() -> Iterator[Bomb]:
    """Yield the files."""

    def terrain(name: str) -> Callable[[bytes], object]:
        return lambda data: read_terrain(data, name)

    def gpx(data: bytes) -> object:
        return read_places(data, "a.gpx")

    yield Bomb("GeoTIFF of 60 000 x 60 000", geotiff(60_000), terrain("a.tif"))
    yield Bomb("ASCII grid that says 10^9 rows", b"ncols 1000000000\nnrows 1000000000\nxllcorner 0\nyllcorner 0\ncellsize 1\n1 2 3\n", terrain("a.asc"))  # fmt: skip
    yield Bomb("HGT of 40 MB", b"\x00\x01" * (20 * MB), terrain("N47W022.hgt"))
    yield Bomb("Touchstone of 4 MB", b"# MHz S RI R 50\n" + b"".join(b"%d.5 0.1 0.1\n" % n for n in range(4 * MB // 16)), read_touchstone)  # fmt: skip
    yield Bomb("Touchstone of one line", b"# MHz S RI R 50\n" + b"1 " * (2 * MB), read_touchstone)
    yield Bomb("Touchstone 2 that says 10^9 ports", b"[Version] 2.0\n# MHz S RI R 50\n[Number of Ports] 1000000000\n[Network Data]\n1 0 0\n", read_touchstone)  # fmt: skip
    yield Bomb(
        "trace of 24 MB of rows", b"time_ms,current_mA\n" + b"0,0\n" * (6 * MB), read_current
    )
    yield Bomb("trace of one line", b"time_ms,current_mA\n" + b"1" * (24 * MB), read_current)
    yield Bomb("trace of 24 MB of columns", b"time_ms,current_mA\n" + b"1," * (12 * MB), read_current)  # fmt: skip
    yield Bomb("ladder of one line", b"rig,stop,seq,condition\n" + b"A," * (8 * MB), lambda data: ladder_steps([data]))  # fmt: skip
    yield Bomb("ladder of 16 MB of nothing", b"rig,stop,seq,condition\n" + b"A,1,x,3\n" * (2 * MB), lambda data: ladder_steps([data]))  # fmt: skip
    yield Bomb("shelf nested a hundred thousand deep", nested(100_000), read_shelf)
    yield Bomb("shelf of 4 MB of modules", b'{"format":"inchmark-shelf","version":1,"modules":[' + b"{}," * (4 * MB // 3 - 40) + b"{}]}", read_shelf)  # fmt: skip
    yield Bomb("shelf of a number of a million digits", b'{"format":' + b"9" * MB + b"}", read_shelf)  # fmt: skip
    yield Bomb("GPX of entities", LAUGHS.encode(), gpx)
    yield Bomb("GPX of entities as a track", LAUGHS.encode(), read_track)
    yield Bomb("GPX nested deep", b"<gpx>" + b"<a>" * 500_000 + b"</a>" * 500_000 + b"</gpx>", gpx)
    yield Bomb("GPX of 8 MB of points", b"<gpx>" + b"<wpt lat='1' lon='2'/>" * (8 * MB // 23) + b"</gpx>", gpx)  # fmt: skip
    yield Bomb("GeoJSON nested deep", b"[" * 4_000_000, lambda data: read_places(data, "a.geojson"))
    yield Bomb("features of 8 MB", b'{"type":"FeatureCollection","features":[' + b"{}," * (2 * MB) + b"{}]}", read_features)  # fmt: skip
    yield Bomb("recipes nested deep", nested(100_000), read_recipes)
    yield Bomb("stops of 8 MB", b"stop,distance_m\n" + b"1,5\n" * (2 * MB), read_stops)
    yield Bomb("timeline of 8 MB", b"from,to,stop,rig\n" + b"1,2,3,4\n" * MB, lambda data: read_timeline(data, zone=None, day=None))  # fmt: skip


def answer_to(bomb: Bomb) -> tuple[float, str]:
    """Return the seconds a reader took, and its sentence; raise what is no sentence."""
    began, words = time.perf_counter(), ""
    try:
        bomb.read(bomb.data)
    except UnreadableFileError as wrong:
        words = str(wrong)
    return time.perf_counter() - began, words


def main() -> int:
    """Print a line for each."""
    wrong = 0
    read_terrain_once()
    for bomb in bombs():
        seconds, words = answer_to(bomb)
        fine = bool(words) and seconds < 1
        wrong += not fine
        print(f"{'' if fine else 'WRONG '}{bomb.name} ({len(bomb.data) / MB:.1f} MB): {seconds:.2f} s: {words[:110] or 'TAKEN'}")  # fmt: skip
    return 1 if wrong else 0


def read_terrain_once() -> None:
    """Load the libraries that a process loads at its first file of a kind."""
    for read in (
        lambda: read_terrain(b"x", "a.tif"),
        lambda: read_touchstone(b"# MHz S RI R 50\n1 0 0\n2 0 0\n"),
        lambda: read_places(b"<gpx/>", "a.gpx"),
    ):
        try:
            read()
        except UnreadableFileError:
            io.BytesIO()


if __name__ == "__main__":
    sys.exit(main())
