"""What positions of frames say of a stop's distance: how far off it may be.

The stop's own distance stays; positions add to its variance by how far they scatter along the path,
and by how far their middle lies from where the stop is said to be.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.geodesy import Place, geodesic
from inchmark.core.reception.position import Position

USUAL_FIX_M = 5.0  # a fix is no better than this under open sky, common practice


@dataclass(frozen=True, slots=True, kw_only=True)
class WalkedTo:
    """Distance by positions [m] (None without coordinates of what hears), and their scatter [m]."""

    distance_m: float | None
    scatter_m: float
    frames: int

    def off_m(self, metres: float) -> float:
        """Return how far a distance lies from the one by positions beyond what a fix may err [m]."""
        if self.distance_m is None:
            return 0.0
        return max(abs(self.distance_m - metres) - USUAL_FIX_M, 0.0)

    def sd_m(self, metres: float) -> float:
        """Return how far off a distance may be by these positions, one standard deviation [m]."""
        return float(np.hypot(self.scatter_m, self.off_m(metres)))


def walked_to(
    positions: Sequence[Position], receiver: tuple[float, float] | None
) -> WalkedTo | None:
    """Return what the positions of a stop's visits say, None without any.

    Parameters
    ----------
    receiver
        Latitude and longitude [degrees] of what heard.
    """
    if not positions:
        return None
    weights = np.array([one.frames for one in positions], dtype=np.float64)
    if receiver is None:
        both = [(one.east_sd_m**2 + one.north_sd_m**2) / 2 for one in positions]
        scatter = float(np.sqrt(np.average(both, weights=weights)))
        return WalkedTo(distance_m=None, scatter_m=scatter, frames=int(weights.sum()))
    there = Place(lat_deg=receiver[0], lon_deg=receiver[1])
    courses = [geodesic(there, Place(lat_deg=p.lat_deg, lon_deg=p.lon_deg)) for p in positions]
    metres = np.array([course.distance_m for course in courses])
    middle = float(np.average(metres, weights=weights))
    along = np.array([_along(p, c.azimuth_deg) for p, c in zip(positions, courses, strict=True)])
    variance = np.average(along**2 + (metres - middle) ** 2, weights=weights)
    return WalkedTo(
        distance_m=middle, scatter_m=float(np.sqrt(variance)), frames=int(weights.sum())
    )


def _along(one: Position, azimuth_deg: float) -> float:
    """Return the scatter of a position along a direction [m]."""
    turn = np.radians(azimuth_deg)
    return float(np.hypot(one.east_sd_m * np.sin(turn), one.north_sd_m * np.cos(turn)))
