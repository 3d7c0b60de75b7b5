"""Free-space loss, ITU-R P.525-4, 20 lg(4 pi d / lambda)."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, positive
from inchmark.core.constants import SPEED_OF_LIGHT_M_S


def free_space_loss_db(distance_m: ArrayLike, frequency_hz: ArrayLike) -> Floats:
    """Return the free-space loss between isotropic antennas [dB]; a loss is positive.

    Parameters
    ----------
    distance_m
        Path length [m], greater than 0, any shape.
    frequency_hz
        Frequency [Hz], greater than 0, broadcast against the distance.

    Raises
    ------
    ValueError
        A distance or frequency is 0, negative, infinite or NaN.

    References
    ----------
    ITU-R P.525-4, equation (4), in its closed form.
    """
    wavelengths = (
        positive("distance_m", distance_m)
        * positive("frequency_hz", frequency_hz)
        / SPEED_OF_LIGHT_M_S
    )
    loss_db: Floats = 20 * np.log10(4 * np.pi * wavelengths)
    return loss_db


def wavelength_m(frequency_hz: ArrayLike) -> Floats:
    """Return the wavelength [m] at a frequency [Hz], greater than 0."""
    wavelength: Floats = SPEED_OF_LIGHT_M_S / positive("frequency_hz", frequency_hz)
    return wavelength
