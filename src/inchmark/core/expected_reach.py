"""How far a rig should reach before anyone has walked: where a site's model uses the budget up."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from inchmark.core.checks import Floats, within
from inchmark.core.prediction import FRAME_SPREAD_DB, Paths, Surroundings, predict_paths

NEAREST_M, FARTHEST_M, STEPS = 1.0, 1e6, 1200  # some 1.2 % from step to step, joined by lines


@dataclass(frozen=True, slots=True, kw_only=True)
class ExpectedReach:
    """Distances [m]: as predicted, and if all paths lost one spread more (low) or less (high)."""

    low_m: float
    middle_m: float
    high_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Reaching:
    """What the reach of a rig hangs on: levels [dBm], heights [m], frequency, the rule.

    The rule is that a share of places loses no more than a share of frames.
    """

    lossless_dbm: float
    threshold_dbm: float
    height1_m: float
    height2_m: float
    frequency_hz: float
    loss_share: float
    places_share: float
    magnetic: bool = False


def expected_reach(rig: Reaching, site: Surroundings) -> ExpectedReach:
    """Return how far a rig keeps the rule, going outwards; the farthest distance counts.

    Two rays have dips close in. Terrain has no one range, so two rays over flat ground stand in for
    it. What a prediction may be wrong by as a whole is taken as one spread between places, common
    practice.

    Raises
    ------
    ValueError
        A share of 0 or 1.
    """
    allowed = float(within("loss_share", rig.loss_share, 1e-6, 1 - 1e-6))
    places = float(within("places_share", rig.places_share, 1e-6, 1 - 1e-6))
    d = np.geomspace(NEAREST_M, FARTHEST_M, STEPS)
    paths = Paths(
        distance_m=d, height1_m=np.asarray(rig.height1_m), height2_m=np.asarray(rig.height2_m),
        frequency_hz=rig.frequency_hz, magnetic=rig.magnetic,
    )  # fmt: skip
    # within a place the allowed share of frames falls below the threshold, between places the rest
    keep = -float(ndtri(allowed)) * FRAME_SPREAD_DB + float(ndtri(places)) * site.shadowing_db
    over = rig.lossless_dbm - predict_paths(paths, site).loss_db - rig.threshold_dbm - keep
    doubt = site.shadowing_db
    low, middle, high = (_farthest(d, over + more) for more in (-doubt, 0.0, doubt))
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
