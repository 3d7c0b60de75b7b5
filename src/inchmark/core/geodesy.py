"""Distances on the WGS 84 ellipsoid, along the ground and through the air."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike
from pyproj import Geod, Transformer

from inchmark.core.checks import Floats, within

_WGS84 = Geod(ellps="WGS84")
_TO_EARTH_CENTRED = Transformer.from_crs("EPSG:4979", "EPSG:4978")


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """A point: latitude and longitude [degrees, WGS 84], height above the ellipsoid [m]."""

    lat_deg: float
    lon_deg: float
    height_m: float = 0.0

    def __post_init__(self) -> None:
        """Refuse coordinates off the globe."""
        within("lat_deg", self.lat_deg, -90, 90)
        within("lon_deg", self.lon_deg, -180, 360)
        within("height_m", self.height_m, -11_000, 100_000)


class Course(NamedTuple):
    """From one place to another: ground distance [m] and azimuths [degrees, 0 to 360)."""

    distance_m: float
    azimuth_deg: float
    back_azimuth_deg: float


def geodesic(start: Place, end: Place) -> Course:
    """Return the shortest way over the ellipsoid (Karney 2013, as pyproj implements it)."""
    azimuth, back, distance = _WGS84.inv(start.lon_deg, start.lat_deg, end.lon_deg, end.lat_deg)
    return Course(distance_m=distance, azimuth_deg=azimuth % 360, back_azimuth_deg=back % 360)


def destination(start: Place, azimuth_deg: float, distance_m: float) -> Place:
    """Return the place a distance [m] away in a direction [degrees from north].

    At the same height.
    """
    lon, lat, _ = _WGS84.fwd(start.lon_deg, start.lat_deg, azimuth_deg, distance_m)
    return Place(lat_deg=lat, lon_deg=lon, height_m=start.height_m)


def chord_m(start: Place, end: Place) -> float:
    """Return the straight line between two places [m], through earth-centred coordinates."""
    one = _TO_EARTH_CENTRED.transform(start.lat_deg, start.lon_deg, start.height_m)
    two = _TO_EARTH_CENTRED.transform(end.lat_deg, end.lon_deg, end.height_m)
    return float(np.linalg.norm(np.subtract(one, two)))


def distances_m(start: Place, lat_deg: ArrayLike, lon_deg: ArrayLike) -> Floats:
    """Return the shortest way over the ellipsoid to many places at once [m]."""
    lat, lon = np.broadcast_arrays(
        np.asarray(lat_deg, dtype=np.float64), np.asarray(lon_deg, dtype=np.float64)
    )
    start_lon, start_lat = np.full_like(lon, start.lon_deg), np.full_like(lat, start.lat_deg)
    found: Floats = _WGS84.inv(start_lon, start_lat, lon, lat)[2]
    return found
