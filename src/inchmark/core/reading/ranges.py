"""Ranges from the fit, held to what stops and sense allow.

A wrong count of frames can put a range at a few centimetres: the fit is right about the counts it
was given, and the figure is no range of a radio. Such a figure is not shown; a note says why.
"""

from __future__ import annotations

from inchmark.core.interval import Estimate
from inchmark.core.reading.analysis import Analysis

LEAST_SHARE = 0.1  # of the nearest stop: nearer in, nothing on this walk speaks of it
LEAST_M = 0.5  # antennas of one link stand farther apart
FARTHEST_M = 1e6  # the horizon of a satellite's beacon; no walk tells of more


def nearest_sensible_m(analysis: Analysis) -> float:
    """Return the distance [m] under which a range is no result of this walk."""
    return max(LEAST_SHARE * analysis.distances_m[0], LEAST_M)


def sensible(analysis: Analysis, reach: Estimate | None) -> bool:
    """Tell whether a range is one this walk can speak of."""
    if reach is None:
        return False
    return nearest_sensible_m(analysis) <= reach.estimate <= FARTHEST_M


def fitted_range(analysis: Analysis, rig: str) -> Estimate | None:
    """Return the fit's range under the loss rule [m], whatever it is; None without one."""
    p, rules = analysis.posterior, analysis.rules
    if p is None or not (analysis.threshold_known(rig) and analysis.slope_known()):
        return None
    return p.loss_range_m(rig, loss=rules.loss, places=rules.places)


def loss_range(analysis: Analysis, rig: str) -> Estimate | None:
    """Return the farthest distance [m] that keeps the loss rule; None where none can be said."""
    reach = fitted_range(analysis, rig)
    return reach if sensible(analysis, reach) else None


def in_hand_range(analysis: Analysis, rig: str) -> Estimate | None:
    """Return the distance [m] with the wanted level in hand; None where none can be said."""
    p = analysis.posterior
    if p is None or not (analysis.threshold_known(rig) and analysis.slope_known()):
        return None
    reach = p.in_hand_range_m(rig, in_hand_db=analysis.rules.in_hand_db)
    return reach if sensible(analysis, reach) else None
