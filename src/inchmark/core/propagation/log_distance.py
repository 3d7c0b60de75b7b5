"""The log-distance law: loss grows by 10 n dB for every tenfold distance.

=================  ==========================  ============================
symbol             name here                   meaning
=================  ==========================  ============================
PL(d0)             loss_at_reference_db        loss at the reference distance [dB]
d0                 reference_m                 reference distance [m]
n                  exponent                    path-loss exponent [1]
=================  ==========================  ============================
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, floats, positive
from inchmark.core.propagation.free_space import free_space_loss_db


@dataclass(frozen=True, slots=True, kw_only=True)
class LogDistanceLaw:
    """A path law with one slope; beyond and before the reference distance alike."""

    loss_at_reference_db: float
    reference_m: float
    exponent: float

    def __post_init__(self) -> None:
        """Refuse a law that does not lose with distance."""
        positive("reference_m", self.reference_m)
        positive("exponent", self.exponent)
        floats("loss_at_reference_db", self.loss_at_reference_db)

    @classmethod
    def from_free_space(
        cls, *, frequency_hz: float, exponent: float, reference_m: float = 1.0
    ) -> LogDistanceLaw:
        """Return the law that is free space up to the reference distance [m]."""
        loss = float(free_space_loss_db(reference_m, frequency_hz))
        return cls(loss_at_reference_db=loss, reference_m=reference_m, exponent=exponent)

    def loss_db(self, distance_m: ArrayLike) -> Floats:
        """Return the loss [dB] at distances [m] greater than 0, any shape."""
        ratio = positive("distance_m", distance_m) / self.reference_m
        loss: Floats = self.loss_at_reference_db + 10 * self.exponent * np.log10(ratio)
        return loss

    def distance_m(self, loss_db: ArrayLike) -> Floats:
        """Return the distance [m] at which the loss [dB] is reached, any shape."""
        beyond = floats("loss_db", loss_db) - self.loss_at_reference_db
        distance: Floats = self.reference_m * np.power(10.0, beyond / (10 * self.exponent))
        return distance


def range_factor(added_db: ArrayLike, exponent: ArrayLike) -> Floats:
    """Return the factor [1] on range that a gain [dB] buys at a path-loss exponent.

    ``10^(x / (10 n))``; the common practice "6 dB doubles the range" is exact at n = 2 only.
    """
    factor: Floats = np.power(
        10.0, floats("added_db", added_db) / (10 * positive("exponent", exponent))
    )
    return factor
