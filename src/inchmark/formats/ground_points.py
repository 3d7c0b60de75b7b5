"""Points typed one a line: latitude and longitude, or metres east and north of a known place."""

from __future__ import annotations

import math
import re

from inchmark.core.geodesy import Place, destination
from inchmark.formats.quantities import read_quantity, shortened

MOST_LINES = 500
FARTHEST_M = 100_000.0
DIGITS = 7  # of a degree: a centimetre
_DEGREES = re.compile(r"^[+-]?\d{1,3}(\.\d*)?$")


def read_points(text: str, start: Place | None) -> list[list[float]]:
    """Return [latitude, longitude] of each line [degrees].

    Metres carry their unit ("4 m, -2.5 m": east, then north of `start`); bare numbers are degrees.

    Raises
    ------
    ValueError
        A line is neither, or metres are typed and nothing is known to count them from.
    """
    lines = [line.strip() for line in re.split(r"[\n;]", text) if line.strip()]
    if len(lines) > MOST_LINES:
        raise ValueError(f"{len(lines)} points are typed; {MOST_LINES} are the most.")
    return [_point(number, line, start) for number, line in enumerate(lines, start=1)]


def _point(number: int, line: str, start: Place | None) -> list[float]:
    parts = [one.strip().replace("\N{MINUS SIGN}", "-") for one in line.split(",")]
    if len(parts) != 2:
        raise ValueError(
            f"Line {number}, “{shortened(line)}”: write two values with a comma between, like “47.50012, -20.99987” or “4 m, -2.5 m”."
        )
    if all(_DEGREES.match(one) for one in parts):
        lat, lon = (float(one) for one in parts)
        if abs(lat) > 90 or abs(lon) > 180:
            raise ValueError(f"Line {number}: {lat:g}, {lon:g} lies off the globe.")
        return [lat, lon]
    if start is None:
        raise ValueError(
            f"Line {number}: metres are counted from the fixed end, which has no coordinates yet."
        )
    try:
        east, north = (read_quantity(one, "m") for one in parts)
    except ValueError as wrong:
        raise ValueError(f"Line {number}: {wrong}") from None
    away = math.hypot(east, north)
    if away > FARTHEST_M:
        raise ValueError(f"Line {number}: {away / 1000:.0f} km off is no part of this site.")
    found = destination(start, math.degrees(math.atan2(east, north)) % 360, away)
    return [round(found.lat_deg, DIGITS), round(found.lon_deg, DIGITS)]


def written(points: list[list[float]]) -> str:
    """Return points as they could have been typed."""
    return "\n".join(f"{lat:.10g}, {lon:.10g}" for lat, lon in points)
