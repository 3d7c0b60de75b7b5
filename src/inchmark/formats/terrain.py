"""Terrain files (GeoTIFF, HGT, ESRI ASCII grid) to a grid by latitude and longitude."""

from __future__ import annotations

import re
import warnings
from contextlib import ExitStack
from typing import Any

import numpy as np

from inchmark.core.terrain import TerrainGrid
from inchmark.formats.errors import UnreadableFileError

LARGEST_BYTES = 40 * 1024 * 1024
MOST_CELLS = 2_000_000
MOST_CELLS_OF_A_FILE = 64_000_000  # 8000 x 8000; packed, a file of a few kB may say it holds more
_SUFFIXES = {"tif": "GTiff", "tiff": "GTiff", "hgt": "SRTMHGT", "asc": "AAIGrid"}
_HGT_NAME = re.compile(r"^[NS](\d{2})[EW](\d{3})", re.IGNORECASE)
_NOT_TERRAIN = "The file is no terrain grid. GeoTIFF (.tif), HGT (.hgt) and ESRI ASCII grids (.asc) can be read."


def read_terrain(data: bytes, name: str) -> TerrainGrid:
    """Return the grid of a file; another projection is warped to latitude and longitude.

    Raises
    ------
    UnreadableFileError
        The file is no terrain, too large, says not where it lies, or holds no height.
    """
    if len(data) > LARGEST_BYTES:
        raise UnreadableFileError("The file is over 40 MB. Cut the part around the site out.")
    suffix = name.rsplit(".", 1)[-1].lower()
    if suffix not in _SUFFIXES or not data:
        raise UnreadableFileError(_NOT_TERRAIN)
    if suffix == "hgt":
        _check_hgt_name(name)
    import rasterio  # half a second; only terrain needs it
    from rasterio.errors import NotGeoreferencedWarning, RasterioError
    from rasterio.io import MemoryFile

    try:
        with warnings.catch_warnings(), rasterio.Env(GDAL_DISABLE_READDIR_ON_OPEN="TRUE"):
            warnings.simplefilter("ignore", NotGeoreferencedWarning)
            with (
                MemoryFile(data, filename=name.replace("/", "_")) as memory,
                memory.open(driver=_SUFFIXES[suffix]) as source,
            ):
                return _grid(source, plain=suffix == "asc")
    except RasterioError:
        raise UnreadableFileError(_NOT_TERRAIN) from None


def _check_hgt_name(name: str) -> None:
    """Refuse a name that is no place on the globe: the file itself does not say where it lies."""
    found = _HGT_NAME.match(name)
    if found is None or int(found.group(1)) > 90 or int(found.group(2)) > 180:
        raise UnreadableFileError(
            "An HGT file says where it lies by its name, like N47W022.hgt: latitude up to 90, longitude up to 180. Name it so again."
        )


def _grid(source: Any, *, plain: bool) -> TerrainGrid:
    from rasterio.crs import CRS

    degrees = CRS.from_epsg(4326)
    crs = source.crs or (degrees if plain and _looks_like_degrees(source) else None)
    if crs is None:
        raise UnreadableFileError(
            "The file does not say where it lies. Export it with its coordinate system, or as an ASCII grid in degrees."
        )
    if source.width * source.height > MOST_CELLS_OF_A_FILE:
        raise UnreadableFileError(
            f"The file holds {source.width:,} × {source.height:,} heights, more than {MOST_CELLS_OF_A_FILE // 10**6} million. "
            "Cut the part around the site out."
        )
    with ExitStack() as opened:
        return _warped(_gathered(source, crs, opened), crs)


def _gathered(source: Any, crs: Any, opened: ExitStack) -> Any:
    """Return the source, or one of its cells gathered into fewer: warping them all takes minutes."""
    from rasterio.enums import Resampling
    from rasterio.io import MemoryFile

    shrink = int((source.width * source.height / (2 * MOST_CELLS)) ** 0.5)
    if shrink < 2:
        return source
    shape = (1, max(source.height // shrink, 2), max(source.width // shrink, 2))
    found = source.read([1], out_shape=shape, resampling=Resampling.average, masked=True)
    scale = source.transform.scale(source.width / shape[2], source.height / shape[1])
    profile = {"width": shape[2], "height": shape[1], "count": 1, "dtype": "float32"}
    memory = opened.enter_context(MemoryFile())
    with memory.open(
        driver="GTiff", crs=crs, transform=source.transform * scale, nodata=np.nan, **profile
    ) as fewer:
        fewer.write(found.astype("float32").filled(np.nan))
    return opened.enter_context(memory.open())


def _warped(source: Any, crs: Any) -> TerrainGrid:
    from rasterio.crs import CRS
    from rasterio.enums import Resampling
    from rasterio.vrt import WarpedVRT

    degrees = CRS.from_epsg(4326)
    options = {"src_crs": crs, "crs": degrees, "resampling": Resampling.bilinear}
    with WarpedVRT(source, nodata=np.nan, dtype="float32", **options) as warped:
        shrink = max((warped.width * warped.height / MOST_CELLS) ** 0.5, 1.0)
        shape = (1, max(int(warped.height / shrink), 2), max(int(warped.width / shrink), 2))
        heights = warped.read(out_shape=shape, resampling=Resampling.average)[0]
        left, bottom, right, top = warped.bounds
    return _checked(heights, left, bottom, right, top)


def _looks_like_degrees(source: Any) -> bool:
    left, bottom, right, top = source.bounds
    return bool(-180 <= left < right <= 180 and -90 <= bottom < top <= 90)


def _checked(
    heights: np.ndarray, left: float, bottom: float, right: float, top: float
) -> TerrainGrid:
    heights = np.where((heights > -1000) & (heights < 9500), heights, np.nan).astype(np.float32)
    if np.all(np.isnan(heights)):
        raise UnreadableFileError("The file holds no height between -1000 and 9500 m.")
    rows, columns = heights.shape
    lat_step, lon_step = (top - bottom) / rows, (right - left) / columns
    return TerrainGrid(
        north_deg=top - lat_step / 2,
        west_deg=left + lon_step / 2,
        lat_step_deg=lat_step,
        lon_step_deg=lon_step,
        heights_m=heights,
    )
