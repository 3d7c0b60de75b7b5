"""Woodland with one end inside (ITU-R P.833)."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, positive, within


def woodland_loss_db(depth_m: ArrayLike, *, most_db: float, per_metre_db: float) -> Floats:
    """Return the further loss [dB] of a depth of woodland [m, 0 and up].

    It grows by `per_metre_db` at first and never above `most_db`; both depend on trees, leaves and
    frequency and are measured or taken from the Recommendation's figures.
    """
    depth = within("depth_m", depth_m, 0, np.inf)
    most = float(positive("most_db", most_db))
    rate = float(positive("per_metre_db", per_metre_db))
    loss: Floats = most * -np.expm1(-depth * rate / most)
    return loss
