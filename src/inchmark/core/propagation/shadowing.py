"""Log-normal shadowing: how much to keep in hand for bad places."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import ndtr, ndtri

from inchmark.core.checks import Floats, floats, positive, within


def location_probability(margin_db: ArrayLike, sigma_db: ArrayLike) -> Floats:
    """Return the share of places [0 to 1] that hold a margin [dB] at a spread sigma [dB] > 0."""
    share: Floats = ndtr(floats("margin_db", margin_db) / positive("sigma_db", sigma_db))
    return share


def fade_margin_db(share: ArrayLike, sigma_db: ArrayLike) -> Floats:
    """Return the margin [dB] to keep so that a share (0 to 1) of places hold; spread sigma [dB]."""
    inside = within("share", share, np.nextafter(0, 1), np.nextafter(1, 0))
    margin: Floats = positive("sigma_db", sigma_db) * ndtri(inside)
    return margin
