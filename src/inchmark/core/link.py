"""A rig's link as range, map and prediction take it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Link:
    """Levels [dBm], heights above ground [m] and frequency of one link.

    `reference_dbm` is the level at the receiver with no path between: the transmitter's power and
    both antennas less everything lost at the ends. `magnetic` tells that both antennas are loops
    or rods, which couple by their near field.
    """

    reference_dbm: float
    threshold_dbm: float
    height1_m: float
    height2_m: float
    frequency_hz: float
    magnetic: bool = False

    @property
    def allowed_path_loss_db(self) -> float:
        """Return the path loss at which half of the frames are lost [dB]."""
        return self.reference_dbm - self.threshold_dbm
