"""Decibels and back. A loss is positive and subtracted; a gain is positive and added."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, floats, positive
from inchmark.core.constants import DIPOLE_GAIN_DBI


def db_from_ratio(ratio: ArrayLike) -> Floats:
    """Return the power ratio in decibels [dB].

    Parameters
    ----------
    ratio
        Power ratio [1], greater than 0, any shape.
    """
    decibels: Floats = 10 * np.log10(positive("ratio", ratio))
    return decibels


def ratio_from_db(decibels: ArrayLike) -> Floats:
    """Return the power ratio [1] of a level difference [dB], any shape."""
    ratio: Floats = np.power(10.0, floats("decibels", decibels) / 10)
    return ratio


def dbi_from_dbd(gain_dbd: ArrayLike) -> Floats:
    """Return a gain over isotropic [dBi] from one over a half-wave dipole [dBd]."""
    gain: Floats = floats("gain_dbd", gain_dbd) + DIPOLE_GAIN_DBI
    return gain


def signal_from_signal_plus_noise_dbm(level_dbm: ArrayLike, snr_db: ArrayLike) -> Floats:
    """Return the signal alone [dBm] from a reading of signal plus noise [dBm].

    A receiver that works below its noise reports both together; with S/N known the
    signal is ``level - 10 lg(1 + 10^(-snr/10))``.

    Parameters
    ----------
    level_dbm
        Reading of signal plus noise [dBm], any shape.
    snr_db
        Signal-to-noise ratio [dB], same shape.
    """
    snr = floats("snr_db", snr_db)
    signal: Floats = floats("level_dbm", level_dbm) - 10 * np.log10(1 + np.power(10.0, -snr / 10))
    return signal
