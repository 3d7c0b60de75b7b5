"""How far a rig should reach before anyone has walked: where a site's model uses the budget up."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from inchmark.core.checks import Floats, within
from inchmark.core.prediction import (
    EIGHT_OF_TEN,
    FRAME_SPREAD_DB,
    Paths,
    Surroundings,
    predict_paths,
)

NEAREST_M, FARTHEST_M, STEPS = 1.0, 1e6, 1200  # some 1.2 % from step to step, joined by lines


@dataclass(frozen=True, slots=True, kw_only=True)
class ExpectedReach:
    """Distances [m]: at a place worse than 9 of 10, a typical one, one better than 9 of 10."""

    low_m: float
    middle_m: float
    high_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Reaching:
    """What the reach of a rig hangs on: levels [dBm], heights [m], frequency, loss allowed."""

    lossless_dbm: float
    threshold_dbm: float
    height1_m: float
    height2_m: float
    frequency_hz: float
    loss_share: float
    magnetic: bool = False


def expected_reach(rig: Reaching, site: Surroundings) -> ExpectedReach:
    """Return where a rig loses more than the allowed share of frames, going outwards.

    The farthest place where the level still suffices counts: two rays have dips close in. Terrain
    has no one range, so two rays over flat ground stand in for it.

    Raises
    ------
    ValueError
        A share of 0 or 1.
    """
    allowed = float(within("loss_share", rig.loss_share, 1e-6, 1 - 1e-6))
    d = np.geomspace(NEAREST_M, FARTHEST_M, STEPS)
    paths = Paths(
        distance_m=d, height1_m=np.asarray(rig.height1_m), height2_m=np.asarray(rig.height2_m),
        frequency_hz=rig.frequency_hz, magnetic=rig.magnetic,
    )  # fmt: skip
    # allowed lost within a place: that many of its frames fall below the threshold
    keep = -float(ndtri(allowed)) * FRAME_SPREAD_DB
    over = rig.lossless_dbm - predict_paths(paths, site).loss_db - rig.threshold_dbm - keep
    band = EIGHT_OF_TEN * site.shadowing_db
    low, middle, high = (_farthest(d, over + more) for more in (-band, 0.0, band))
    return ExpectedReach(low_m=low, middle_m=middle, high_m=high)


def _farthest(d: Floats, over: Floats) -> float:
    """Return the farthest distance at which something is left over, joined over lg d."""
    enough = np.flatnonzero(over >= 0)
    if not len(enough):
        return float(d[0])
    i = int(enough[-1])
    if i == len(d) - 1:
        return float(d[-1])
    share = over[i] / (over[i] - over[i + 1])
    return float(d[i] * (d[i + 1] / d[i]) ** share)
