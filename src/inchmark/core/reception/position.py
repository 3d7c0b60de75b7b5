"""Where the carried end was during a visit, from positions its frames bear.

Middles and spreads are medians (1.4826 times the median deviation for a standard deviation), for a
position fix jumps now and then. 0, 0 is what a receiver without a fix writes.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.constants import EARTH_M_PER_DEG

NORMAL_MAD = 1.4826


@dataclass(frozen=True, slots=True, kw_only=True)
class Position:
    """Middle [degrees] and spread [m] of the positions of so many frames."""

    frames: int
    lat_deg: float
    lon_deg: float
    east_sd_m: float
    north_sd_m: float


def position_of(lat_deg: Floats | None, lon_deg: Floats | None) -> Position | None:
    """Return where frames were sent or heard, NaN where they do not say; None if none says."""
    if lat_deg is None or lon_deg is None:
        return None
    known = np.isfinite(lat_deg) & np.isfinite(lon_deg) & ((lat_deg != 0) | (lon_deg != 0))
    if not np.any(known):
        return None
    lat, lon = lat_deg[known], lon_deg[known]
    middle_lat, middle_lon = float(np.median(lat)), float(np.median(lon))
    east = (lon - middle_lon) * EARTH_M_PER_DEG * np.cos(np.radians(middle_lat))
    north = (lat - middle_lat) * EARTH_M_PER_DEG
    return Position(
        frames=int(known.sum()),
        lat_deg=middle_lat,
        lon_deg=middle_lon,
        east_sd_m=NORMAL_MAD * float(np.median(np.abs(east))),
        north_sd_m=NORMAL_MAD * float(np.median(np.abs(north))),
    )
