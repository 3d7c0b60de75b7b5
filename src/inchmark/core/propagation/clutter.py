"""What stands around an antenna: statistical clutter (ITU-R P.2108-1), height gain (P.452-16)."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import ndtri

from inchmark.core.checks import Floats, positive, within
from inchmark.core.propagation.knife_edge import knife_edge_loss_db

FARTHEST_M = 2000.0  # P.2108 clause 3.2: never above its value there
OPEN = ("WaterSea", "OpenRural")
KINDS = (*OPEN, "Suburban", "Urban", "TreesForest", "DenseUrban")


def statistical_clutter_loss_db(
    distance_m: ArrayLike, frequency_hz: ArrayLike, *, share: float
) -> Floats:
    """Return the loss [dB] a share (0 to 1) of places does not exceed, one end in clutter.

    ITU-R P.2108-1, clause 3.2: 0.5 to 67 GHz, 0.25 km and up.
    """
    d = positive("distance_m", distance_m)
    ghz = positive("frequency_hz", frequency_hz) / 1e9
    quantile = float(ndtri(within("share", share, 1e-6, 1 - 1e-6)))
    at_end = _clutter_db(np.full_like(d, FARTHEST_M), ghz, quantile)
    return np.minimum(_clutter_db(d, ghz, quantile), at_end)


def _clutter_db(distance_m: Floats, ghz: Floats, quantile: float) -> Floats:
    long = -2 * np.log10(10 ** (-5 * np.log10(ghz) - 12.5) + 10**-16.5)
    short = 32.98 + 23.9 * np.log10(distance_m / 1000) + 3 * np.log10(ghz)
    weights = 10 ** (-0.2 * long), 10 ** (-0.2 * short)
    sigma = np.sqrt((4**2 * weights[0] + 6**2 * weights[1]) / (weights[0] + weights[1]))
    loss: Floats = -5 * np.log10(weights[0] + weights[1]) + sigma * quantile
    return loss


def height_gain_loss_db(
    antenna_height_m: ArrayLike,
    frequency_hz: ArrayLike,
    *,
    kind: str,
    clutter_height_m: float,
    street_width_m: float = 27.0,
) -> Floats:
    """Return the loss [dB] of an antenna below the clutter around it.

    ITU-R P.2108-1, clause 3.1: 0.03 to 3 GHz; nothing is lost above the clutter.
    """
    if kind not in KINDS:
        raise ValueError(f"kind={kind!r} must be one of {', '.join(KINDS)}")
    h = positive("antenna_height_m", antenna_height_m)
    ghz = positive("frequency_hz", frequency_hz) / 1e9
    below = np.maximum(clutter_height_m - h, 0.0)
    if kind in OPEN:
        loss = -(21.8 + 6.2 * np.log10(ghz)) * np.log10(h / clutter_height_m)
    else:
        angle = np.degrees(np.arctan(below / street_width_m))
        loss = knife_edge_loss_db(0.342 * np.sqrt(ghz) * np.sqrt(below * angle)) - 6.03
    return np.where(h >= clutter_height_m, 0.0, loss)
