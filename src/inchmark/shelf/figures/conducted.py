"""What a conducted ladder says; kept with the check, since weighing takes a second."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.bench.conducted import WeighedLadder, both_ways, weigh
from inchmark.core.interval import Estimate
from inchmark.core.wording import level, listed, number
from inchmark.formats.stored import Stored
from inchmark.shelf.adapters.conducted import core_steps
from inchmark.shelf.models import ConductedCheck

LOSSES = (0.01, 0.1, 0.5)
CURVE_POINTS = 60
ROOM_DB = 1.0  # of the curve beyond the outermost steps


@dataclass(frozen=True, slots=True, kw_only=True)
class WeighedStep:
    """One step with what was lost and what the curve says [share]."""

    attenuation_db: float
    level_dbm: float
    sent: int
    heard: int
    loss: float
    fitted: Estimate


@dataclass(frozen=True, slots=True, kw_only=True)
class LadderResult:
    """What a ladder says: the level at each loss, the curve, and what to mistrust."""

    levels: tuple[tuple[float, Estimate | None], ...]
    half_lost: Estimate | None
    steps: tuple[WeighedStep, ...]
    curve: tuple[tuple[float, Estimate], ...]  # level [dBm], share lost
    edge_reached: bool
    warning: str
    falling: Estimate | None = None  # half lost as the level fell, and as it rose
    rising: Estimate | None = None

    @property
    def ways(self) -> str:
        """Return what the two directions of stepping say apart, in words; empty with one."""
        if self.falling is None or self.rising is None:
            return ""
        apart = self.rising.estimate - self.falling.estimate
        words = (
            "It holds on to a signal it would not find again"
            if self.rising.low > self.falling.high
            else "No difference beyond chance"
        )
        return f"Half lost as the level fell at {level(self.falling.estimate)} ({number(self.falling.low)} … {number(self.falling.high)}), as it rose at {level(self.rising.estimate)} ({number(self.rising.low)} … {number(self.rising.high)}): {number(apart, 1, sign=True)} dB. {words}; the level in use takes both."


STORED = Stored(LadderResult, version=3)


def result_of(check: ConductedCheck) -> LadderResult:
    """Return what is kept of a ladder, weighed anew where it was kept in an older shape."""
    return STORED.load(check.reading) or ladder_result(check)


def ladder_result(check: ConductedCheck) -> LadderResult:
    """Return what a ladder says."""
    ladder = weigh(core_steps(check))
    ways = both_ways(core_steps(check))
    steps = [
        WeighedStep(
            attenuation_db=float(attenuation),
            level_dbm=step.level_dbm,
            sent=step.sent,
            heard=step.heard,
            loss=1 - step.heard / step.sent,
            fitted=ladder.loss_at(step.level_dbm),
        )
        for (attenuation, _, _), step in zip(check.steps, ladder.steps, strict=True)
    ]
    reached = [step.level_dbm for step in steps]
    levels = np.linspace(min(reached) - ROOM_DB, max(reached) + ROOM_DB, CURVE_POINTS)
    return LadderResult(
        levels=tuple((loss, ladder.level_at_loss(loss)) for loss in LOSSES),
        half_lost=ladder.level_at_loss(LOSSES[-1]),
        steps=tuple(sorted(steps, key=lambda step: -step.level_dbm)),
        curve=tuple((float(x), ladder.loss_at(float(x))) for x in levels),
        edge_reached=ladder.edge_reached,
        warning=_warning(ladder),
        falling=ways[0].level_at_loss(LOSSES[-1]) if ways else None,
        rising=ways[1].level_at_loss(LOSSES[-1]) if ways else None,
    )


def _warning(ladder: WeighedLadder) -> str:
    if ladder.leaks:
        where = listed([level(step.level_dbm) for step in ladder.leaks])
        return f"Frames arrived at {where} that no receiver this deaf could hear: they came round the cable. Shield the boards, or move them apart, and repeat those steps."
    if not ladder.edge_reached:
        return "No step lost between 5 and 95 % of its frames, so the sensitivity lies somewhere between two steps or beyond them. Add steps there."
    return ""
