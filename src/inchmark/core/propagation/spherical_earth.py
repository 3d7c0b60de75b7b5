"""Diffraction over a smooth round earth (ITU-R P.526-15, clause 3; P.452-16, clause 4.2.2).

Lengths along the path are in km and frequencies in GHz inside, as the Recommendation has them.
"""

from __future__ import annotations

from functools import partial

import numpy as np
from numpy.typing import NDArray

from inchmark.core.propagation.two_ray import Ground

Floats = NDArray[np.float64]
LAND = Ground(permittivity=22.0, conductivity_s_m=0.003)  # P.526, average land
LEAST_HEIGHT_M = 1e-3  # an antenna on the smooth surface itself has no height gain


def spherical_loss_db(
    distance_km: Floats,
    height1_m: Floats,
    height2_m: Floats,
    *,
    frequency_ghz: float,
    radius_km: float,
    polarisation: str,
    ground: Ground = LAND,
) -> Floats:
    """Return the loss [dB, 0 and up] over a smooth earth; arrays of one shape.

    Heights are above the smooth surface [m], the radius is the effective one [km].
    """
    h1 = np.maximum(height1_m, LEAST_HEIGHT_M)
    h2 = np.maximum(height2_m, LEAST_HEIGHT_M)
    sight = np.sqrt(2 * radius_km) * (np.sqrt(0.001 * h1) + np.sqrt(0.001 * h2))
    first_term = partial(
        _first_term_db,
        distance_km,
        h1,
        h2,
        frequency_ghz=frequency_ghz,
        polarisation=polarisation,
        ground=ground,
    )
    beyond = first_term(np.full_like(h1, radius_km))
    clearance, needed = _clearance(distance_km, h1, h2, radius_km, 0.299792458 / frequency_ghz)
    modified = 500 * (distance_km / (np.sqrt(h1) + np.sqrt(h2))) ** 2
    within = np.maximum(first_term(modified), 0.0)
    share = 1 - np.minimum(clearance / needed, 1.0)
    inside = np.where(clearance > needed, 0.0, share * within)
    return np.where(distance_km >= sight, beyond, inside)


def _clearance(
    d: Floats, h1: Floats, h2: Floats, radius_km: float, wavelength_m: float
) -> tuple[Floats, Floats]:
    """Return the least clearance of the sight line [m], and that which loses nothing [m]."""
    c = (h1 - h2) / (h1 + h2)
    m = 250 * d**2 / (radius_km * (h1 + h2))
    inner = np.clip(1.5 * c * np.sqrt(3 * m / (m + 1) ** 3), -1, 1)
    b = 2 * np.sqrt((m + 1) / (3 * m)) * np.cos(np.pi / 3 + np.arccos(inner) / 3)
    d1 = d / 2 * (1 + b)
    d2 = d - d1
    clearance = ((h1 - 500 * d1**2 / radius_km) * d2 + (h2 - 500 * d2**2 / radius_km) * d1) / d
    needed = 17.456 * np.sqrt(np.maximum(d1 * d2, 1e-12) * wavelength_m / d)
    return clearance, needed


def _first_term_db(
    d: Floats,
    h1: Floats,
    h2: Floats,
    radius_km: Floats,
    *,
    frequency_ghz: float,
    polarisation: str,
    ground: Ground,
) -> Floats:
    """Return the first term of the residue series [dB]."""
    f, eps, sigma = frequency_ghz, ground.permittivity, ground.conductivity_s_m
    loss_term = (18 * sigma / f) ** 2
    admittance = 0.036 * (radius_km * f) ** (-1 / 3) * ((eps - 1) ** 2 + loss_term) ** -0.25
    if polarisation == "vertical":
        admittance = admittance * np.sqrt(eps**2 + loss_term)
    k2 = admittance**2
    beta = (1 + 1.6 * k2 + 0.67 * k2**2) / (1 + 4.5 * k2 + 1.53 * k2**2)
    x = 21.88 * beta * (f / radius_km**2) ** (1 / 3) * d
    y = 0.9575 * beta * (f**2 / radius_km) ** (1 / 3)
    far = 11 + 10 * np.log10(x) - 17.6 * x
    near = -20 * np.log10(x) - 5.6488 * x**1.425
    distance_term = np.where(x >= 1.6, far, near)
    gain1, gain2 = (_height_gain_db(y * h, beta, admittance) for h in (h1, h2))
    loss: Floats = -distance_term - gain1 - gain2
    return loss


def _height_gain_db(y: Floats, beta: Floats, admittance: Floats) -> Floats:
    b = beta * y
    above = np.maximum(b - 1.1, 1e-9)
    high = 17.6 * np.sqrt(above) - 5 * np.log10(above) - 8
    low = 20 * np.log10(b + 0.1 * b**3)
    gain: Floats = np.maximum(np.where(b > 2, high, low), 2 + 20 * np.log10(admittance))
    return gain
