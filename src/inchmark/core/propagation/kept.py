"""A surrounding as some walk found it: what it costs beyond free space, and how that grows.

===========  ==================  =============================================================
symbol       name here           meaning
===========  ==================  =============================================================
A            offset_db           loss beyond free space at d1 [dB]
d1           at_m                the distance the offset was found at [m]
n            exponent            path exponent [1]
sigma_s      shadowing_db        spread between places [dB]
===========  ==================  =============================================================

    PL(d) = free space at d1 + A + 10 n lg(d / d1)

The offset goes with the walk's own antennas and RSSI scale. At another frequency free space follows
the frequency and the offset stays: common practice within a factor of two or so.
"""

from __future__ import annotations

from dataclasses import dataclass

from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, floats, positive
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.propagation.log_distance import LogDistanceLaw


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptLaw:
    """What a walk taught, to predict other sites alike with."""

    name: str
    offset_db: float
    at_m: float
    exponent: float
    shadowing_db: float

    def __post_init__(self) -> None:
        """Refuse a law that none is."""
        positive("at_m", self.at_m)
        positive("exponent", self.exponent)
        floats("offset_db", self.offset_db)

    def loss_db(self, distance_m: ArrayLike, frequency_hz: float) -> Floats:
        """Return the loss [dB] at distances [m] greater than 0, any shape."""
        there = float(free_space_loss_db(self.at_m, frequency_hz)) + self.offset_db
        law = LogDistanceLaw(
            loss_at_reference_db=there, reference_m=self.at_m, exponent=self.exponent
        )
        return law.loss_db(distance_m)
