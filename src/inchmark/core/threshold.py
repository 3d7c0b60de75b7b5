"""A sensitivity is a level at a stated loss; a threshold is the level at which half are lost.

Datasheets state a sensitivity at a packet error rate (PER) of 1 % or 10 %; everything here counts
from the level at half loss. This file is the one place where the one is turned into the other, on
the receiver's own edge: loss = Phi((threshold - level) / w), w as on a cable.
"""

from __future__ import annotations

from dataclasses import dataclass

from scipy.special import ndtri

from inchmark.core.checks import fraction
from inchmark.core.frame_spread import FRAME_SPREAD_DB, WATERFALL_DB
from inchmark.core.wording import level, number

HALF = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Sensitivity:
    """A level [dBm] at which a share of frames is lost, and where it came from."""

    dbm: float
    loss: float  # share lost there; HALF where it is the threshold already
    source: str

    def __post_init__(self) -> None:
        """Refuse a loss that is none."""
        fraction("loss", self.loss)

    @property
    def threshold_dbm(self) -> float:
        """Return the level at which half of the frames are lost [dBm]."""
        return self.dbm + WATERFALL_DB * float(ndtri(self.loss))

    @property
    def words(self) -> str:
        """Return the source, and what was made of the stated loss."""
        if self.loss == HALF:
            return self.source
        lower = number(self.dbm - self.threshold_dbm)
        return f"{self.source}: {100 * self.loss:g} % lost at {level(self.dbm)}, so half are lost {lower} dB lower"


def keep_for_rule_db(
    *, loss: float, places: float, shadowing_db: float, frame_spread_db: float = FRAME_SPREAD_DB
) -> float:
    """Return the level above the threshold [dB] that a typical place must have under the loss rule.

    At most `loss` of frames lost at `places` of places: what frames spread within a place, and
    what places spread about the typical one.
    """
    within_place = -float(ndtri(fraction("loss", loss))) * frame_spread_db
    return within_place + float(ndtri(fraction("places", places))) * shadowing_db
