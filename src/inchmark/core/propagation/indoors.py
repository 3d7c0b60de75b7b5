"""Into and inside buildings: entry loss (ITU-R P.2109-1), distance law with floors (P.1238)."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import ndtri

from inchmark.core.checks import Floats, positive, within


class _Building(NamedTuple):
    """The coefficients r to z of P.2109-1, table 1."""

    r: float
    s: float
    t: float
    u: float
    v: float
    w: float
    x: float
    y: float
    z: float


BUILDINGS = {
    "traditional": _Building(12.64, 3.72, 0.96, 9.6, 2.0, 9.1, -3.0, 4.5, -2.0),
    "thermally_efficient": _Building(28.19, -3.00, 8.48, 13.5, 3.8, 27.8, -2.9, 9.4, -2.1),
}
ALWAYS_DB = -3.0


def building_entry_loss_db(
    frequency_hz: ArrayLike, *, building: str, share: float, elevation_deg: float = 0.0
) -> Floats:
    """Return the entry loss [dB] a share (0 to 1) of places inside does not exceed.

    ITU-R P.2109-1: 0.08 to 100 GHz.
    """
    if building not in BUILDINGS:
        raise ValueError(f"building={building!r} must be one of {', '.join(BUILDINGS)}")
    c = BUILDINGS[building]
    within("share", share, 1e-6, 1 - 1e-6)
    within("elevation_deg", elevation_deg, -90, 90)
    log = np.log10(positive("frequency_hz", frequency_hz) / 1e9)
    horizontal = c.r + c.s * log + c.t * log**2
    quantile = float(ndtri(share))
    one = quantile * (c.u + c.v * log) + horizontal + 0.212 * abs(elevation_deg)
    other = quantile * (c.y + c.z * log) + c.w + c.x * log
    loss: Floats = 10 * np.log10(10 ** (one / 10) + 10 ** (other / 10) + 10 ** (ALWAYS_DB / 10))
    return loss


def indoor_loss_db(
    distance_m: ArrayLike, frequency_hz: ArrayLike, *, coefficient: float, floors_db: float = 0.0
) -> Floats:
    """Return the loss [dB] on and between floors; N is the loss per tenfold distance [dB].

    ITU-R P.1238 (editions before -11): 0.9 to 100 GHz, 1 m and up.
    """
    within("coefficient", coefficient, 10, 80)
    within("floors_db", floors_db, 0, 200)
    mhz = positive("frequency_hz", frequency_hz) / 1e6
    log_d = np.log10(positive("distance_m", distance_m))
    loss: Floats = 20 * np.log10(mhz) + coefficient * log_d + floors_db - 28
    return loss
