"""Geometry of a path over a round earth: Fresnel zones, bulge, horizon (ITU-R P.526)."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, positive, within
from inchmark.core.constants import EARTH_RADIUS_M, SPEED_OF_LIGHT_M_S

MEDIAN_K = 4 / 3  # effective earth radius factor of a standard atmosphere, ITU-R P.310


def fresnel_radius_m(
    distance1_m: ArrayLike, distance2_m: ArrayLike, frequency_hz: ArrayLike, *, zone: int = 1
) -> Floats:
    """Return the radius [m] of a Fresnel zone where a path is divided into d1 and d2 [m]."""
    d1, d2 = positive("distance1_m", distance1_m), positive("distance2_m", distance2_m)
    wavelength = SPEED_OF_LIGHT_M_S / positive("frequency_hz", frequency_hz)
    within("zone", zone, 1, 1000)
    radius: Floats = np.sqrt(zone * wavelength * d1 * d2 / (d1 + d2))
    return radius


def earth_bulge_m(distance1_m: ArrayLike, distance2_m: ArrayLike, *, k: float = MEDIAN_K) -> Floats:
    """Return how far the earth stands up above the chord [m] at d1 and d2 [m, 0 and up]."""
    d1 = within("distance1_m", distance1_m, 0, np.inf)
    d2 = within("distance2_m", distance2_m, 0, np.inf)
    bulge: Floats = d1 * d2 / (2 * positive("k", k) * EARTH_RADIUS_M)
    return bulge
