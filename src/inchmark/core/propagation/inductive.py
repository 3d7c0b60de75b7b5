"""Inductive links between magnetic antennas: the near field falls with the cube of distance."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, positive
from inchmark.core.propagation.free_space import wavelength_m

NEAR_DB_PER_DECADE = 60.0


def near_field_end_m(frequency_hz: float) -> float:
    """Return lambda / 2 pi [m], where the near field of a small loop ends (textbook)."""
    return float(wavelength_m(frequency_hz) / (2 * np.pi))


def inductive_loss_db(
    distance_m: ArrayLike, *, reference_m: float, reference_loss_db: float
) -> Floats:
    """Return the near-field loss [dB] at a distance from that at a reference distance [m].

    60 dB for every tenfold distance: the magnetic field of a small loop falls with 1/d^3.
    """
    ratio = positive("distance_m", distance_m) / float(positive("reference_m", reference_m))
    loss: Floats = reference_loss_db + NEAR_DB_PER_DECADE * np.log10(ratio)
    return loss
