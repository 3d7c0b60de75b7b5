"""What readers of GeoJSON share: the object, a place of it, and names that can be kept.

RFC 7946: longitude before latitude, WGS 84 degrees.
"""

from __future__ import annotations

import json
import math
from typing import Any

from inchmark.formats.errors import UnreadableFileError

LARGEST_BYTES = 8 * 1024 * 1024
LONGEST_NAME = 80


def read_object(data: bytes) -> dict[str, Any]:
    """Return the object of a GeoJSON file.

    Raises
    ------
    UnreadableFileError
        The file is too large, no JSON, or no object.
    """
    if len(data) > LARGEST_BYTES:
        raise UnreadableFileError("The file is over 8 MB. Cut it down to the site first.")
    try:
        found = json.loads(data)
    except (ValueError, RecursionError):
        raise UnreadableFileError("The file is no JSON, so it is no GeoJSON.") from None
    if not isinstance(found, dict):
        raise UnreadableFileError("The file is JSON but no GeoJSON object.")
    return found


def position(found: Any) -> tuple[float, float, float | None]:
    """Return latitude, longitude [degrees] and height [m] of a GeoJSON position.

    Raises
    ------
    UnreadableFileError
        It is no place on the globe.
    """
    try:
        lon, lat, *rest = (float(value) for value in found[:3])
    except (TypeError, ValueError, OverflowError, KeyError):
        raise UnreadableFileError("A GeoJSON point has no longitude and latitude.") from None
    if not (math.isfinite(lat) and math.isfinite(lon) and abs(lat) <= 90 and abs(lon) <= 180):
        raise UnreadableFileError(
            f"A point lies at {lon:g}, {lat:g}, which is no longitude and latitude. GeoJSON is in degrees, longitude first."
        )
    return lat, lon, rest[0] if rest and math.isfinite(rest[0]) else None


def kept_name(found: Any) -> str:
    """Return a name as it can be kept and shown: printable characters, so many at most."""
    text = found if isinstance(found, str) else ""
    return "".join(one for one in text if one.isprintable())[:LONGEST_NAME].strip()
