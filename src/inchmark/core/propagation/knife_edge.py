"""Diffraction over a single knife edge (ITU-R P.526, clause 4.1)."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, floats, positive
from inchmark.core.constants import SPEED_OF_LIGHT_M_S

CLEAR_NU = -0.78  # below this the approximation gives no loss


def fresnel_parameter(
    height_m: ArrayLike, distance1_m: ArrayLike, distance2_m: ArrayLike, frequency_hz: ArrayLike
) -> Floats:
    """Return nu of an edge that stands `height_m` above the line between the ends [m]."""
    wavelength = SPEED_OF_LIGHT_M_S / positive("frequency_hz", frequency_hz)
    d1, d2 = positive("distance1_m", distance1_m), positive("distance2_m", distance2_m)
    nu: Floats = floats("height_m", height_m) * np.sqrt(2 / wavelength * (1 / d1 + 1 / d2))
    return nu


def knife_edge_loss_db(nu: ArrayLike) -> Floats:
    """Return J(nu) [dB] by the approximation of P.526; 0 at and below -0.78."""
    nu = floats("nu", nu)
    shifted = np.maximum(nu, CLEAR_NU) - 0.1
    loss = 6.9 + 20 * np.log10(np.sqrt(shifted**2 + 1) + shifted)
    return np.where(nu > CLEAR_NU, loss, 0.0)
