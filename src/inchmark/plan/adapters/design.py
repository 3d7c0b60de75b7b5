"""A design as the simulator walks it."""

from __future__ import annotations

from collections.abc import Sequence
from math import log10

from inchmark.core.planning.power import PlannedWalk, Question
from inchmark.core.reading.rules import USUAL_EXPONENT
from inchmark.core.simulation import SimulatedRig, SimulatedSite
from inchmark.plan.adapters.predictions import StopCells
from inchmark.plan.models import Design, Site
from inchmark.shelf.adapters.ends import sensitivity_of

LEAST_SPAN = 0.001  # decades of distance


def question_of(design: Design, *, needed_m: float | None, loss: float) -> Question:
    """Return the design's question; ValueError says what it lacks."""
    if design.rig is None:
        raise ValueError("choose the rig the question is about")
    return Question(
        kind=design.kind,
        rig=design.rig.letter,
        other=design.other.letter if design.other else "",
        wanted_db=design.wanted_db,
        needed_m=needed_m,
        loss=loss,
    )


def planned_walk(design: Design, cells: Sequence[StopCells], site: Site | None) -> PlannedWalk:
    """Return the plan as the simulator walks it: the predicted path law, each rig's threshold."""
    near, far = cells[0], cells[-1]
    rigs = {}
    exponent = _exponent(near, far)
    for cell in near.cells:
        level = cell.stop.level_dbm + 10 * exponent * log10(near.stop.distance_m)
        rigs[cell.rig.letter] = SimulatedRig(
            level_at_1m_dbm=level, threshold_dbm=sensitivity_of(cell.rig).threshold_dbm
        )
    shadowing = site.shadowing_db if site else 6.0
    return PlannedWalk(
        stops=[(one.stop.label, one.stop.distance_m) for one in cells],
        frames=design.frames,
        passes=design.passes,
        site=SimulatedSite(exponent=exponent, sigma_s_db=shadowing),
        rigs=rigs,
    )


def _exponent(near: StopCells, far: StopCells) -> float:
    """Return the slope between the nearest and the farthest stop, as predicted."""
    span = log10(far.stop.distance_m) - log10(near.stop.distance_m)
    if span < LEAST_SPAN:
        return USUAL_EXPONENT
    drop = near.cells[0].stop.level_dbm - far.cells[0].stop.level_dbm
    return max(drop / span / 10, 1.5)
