"""Thermal noise, and the weakest level a receiver needs."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, floats, positive
from inchmark.core.constants import BOLTZMANN_J_K, REFERENCE_TEMPERATURE_K

# Demodulator limits of chirp spread spectrum receivers, SF -> S/N [dB]; from memory.
CHIRP_SNR_LIMIT_DB = {
    5: -2.5,
    6: -5.0,
    7: -7.5,
    8: -10.0,
    9: -12.5,
    10: -15.0,
    11: -17.5,
    12: -20.0,
}


def noise_floor_dbm(
    bandwidth_hz: ArrayLike, *, temperature_k: float = REFERENCE_TEMPERATURE_K
) -> Floats:
    """Return thermal noise k T B [dBm] in a bandwidth [Hz] greater than 0.

    ITU-R P.372, T0 290 K.
    """
    power_w = (
        BOLTZMANN_J_K
        * positive("temperature_k", temperature_k)
        * positive("bandwidth_hz", bandwidth_hz)
    )
    floor: Floats = 10 * np.log10(power_w * 1e3)
    return floor


def sensitivity_dbm(
    *,
    bandwidth_hz: ArrayLike,
    noise_figure_db: ArrayLike,
    required_snr_db: ArrayLike,
    temperature_k: float = REFERENCE_TEMPERATURE_K,
) -> Floats:
    """Return k T B [dBm] + noise figure [dB] + required signal-to-noise ratio [dB]."""
    level: Floats = (
        noise_floor_dbm(bandwidth_hz, temperature_k=temperature_k)
        + floats("noise_figure_db", noise_figure_db)
        + floats("required_snr_db", required_snr_db)
    )
    return level


def chirp_snr_limit_db(spreading_factor: int) -> float:
    """Return the S/N [dB] a chirp receiver needs, by spreading factor 5 to 12 (from memory)."""
    if spreading_factor not in CHIRP_SNR_LIMIT_DB:
        raise ValueError(f"spreading_factor={spreading_factor!r} must be from 5 to 12")
    return CHIRP_SNR_LIMIT_DB[spreading_factor]
