"""Inductive links between magnetic antennas: the near field falls with the cube of distance."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, positive
from inchmark.core.propagation.free_space import free_space_loss_db, wavelength_m

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


def coupled_loss_db(distance_m: ArrayLike, frequency_hz: float) -> Floats:
    """Return the loss between two small magnetic antennas [dB]: the cube law, then free space.

    The two meet where the near field ends, at lambda / 2 pi, with 6.02 dB there (textbook; the
    leading terms of the field of a small loop). With antennas' gains as in free space, which for
    loops small against the wavelength are far below 0 dBi.
    """
    d, end = positive("distance_m", distance_m), near_field_end_m(frequency_hz)
    at_end = float(free_space_loss_db(end, frequency_hz))
    near = inductive_loss_db(d, reference_m=end, reference_loss_db=at_end)
    loss: Floats = np.where(d < end, near, free_space_loss_db(d, frequency_hz))
    return loss
