"""How far a rig should reach before anyone has walked: where a site's model uses the budget up."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.link import Link
from inchmark.core.prediction import Paths, Surroundings, predict_paths
from inchmark.core.threshold import keep_for_rule_db

NEAREST_M, FARTHEST_M, STEPS = 1.0, 1e6, 1200  # some 1.2 % from step to step, joined by lines


@dataclass(frozen=True, slots=True, kw_only=True)
class ExpectedReach:
    """Distances [m]: as predicted, and if all paths lost one spread more (low) or less (high)."""

    low_m: float
    middle_m: float
    high_m: float


def expected_reach(link: Link, site: Surroundings, *, loss: float, places: float) -> ExpectedReach:
    """Return how far a rig keeps the loss rule, going outwards; the farthest distance counts.

    Two rays have dips close in. Terrain has no one range, so two rays over flat ground stand in for
    it. What a prediction may be wrong by as a whole is taken as one spread between places, common
    practice.

    Raises
    ------
    ValueError
        A share of 0 or 1.
    """
    d = np.geomspace(NEAREST_M, FARTHEST_M, STEPS)
    paths = Paths(
        distance_m=d,
        height1_m=np.asarray(link.height1_m),
        height2_m=np.asarray(link.height2_m),
        frequency_hz=link.frequency_hz,
        magnetic=link.magnetic,
    )
    keep = keep_for_rule_db(loss=loss, places=places, shadowing_db=site.shadowing_db)
    over = link.allowed_path_loss_db - predict_paths(paths, site).loss_db - keep
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
