"""The standard normal in the forms a censored likelihood needs, stable in both tails."""

from __future__ import annotations

import numpy as np
from scipy.special import log_ndtr, ndtr

from inchmark.core.checks import Floats

FAR = -30.0  # below it Phi itself is too small to take a logarithm of; log_ndtr is slower
LOG_SQRT_2PI = 0.5 * np.log(2 * np.pi)


def log_phi(z: Floats) -> Floats:
    """Return ln of the standard normal density."""
    density: Floats = -0.5 * z**2 - LOG_SQRT_2PI
    return density


def inverse_mills(z: Floats) -> Floats:
    """Return density over distribution function, phi(z) / Phi(z), without underflow."""
    ratio: Floats = np.exp(log_phi(z) - log_ndtr(z))
    return ratio


def log_ndtr_and_mills(z: Floats) -> tuple[Floats, Floats]:
    """Return ln Phi(z) and phi(z) / Phi(z) for the price of one."""
    share: Floats = ndtr(z)
    far = z < FAR
    if np.any(far):
        share = np.where(far, 1.0, share)
    log_share: Floats = np.log(share)
    if np.any(far):
        log_share[far] = log_ndtr(z[far])
    return log_share, np.exp(log_phi(z) - log_share)


__all__ = ["LOG_SQRT_2PI", "inverse_mills", "log_ndtr", "log_ndtr_and_mills", "log_phi", "ndtr"]
