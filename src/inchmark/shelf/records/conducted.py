"""Conducted ladders as the core weighs them, and as the page draws them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.bench.conducted import Ladder, Step, weigh
from inchmark.core.interval import Estimate
from inchmark.core.wording import level, listed
from inchmark.shelf.models import ConductedCheck

LOSSES = (0.01, 0.1, 0.5)
WIDTH, HEIGHT = 560.0, 220.0
CURVE_POINTS = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One step with what was lost and what the curve says [share], laid out for drawing."""

    attenuation_db: float
    level_dbm: float
    sent: int
    heard: int
    loss: float
    fitted: Estimate
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LadderReading:
    """What a ladder says: the level at each loss, the curve, and what to mistrust."""

    levels: list[tuple[float, Estimate | None]]
    half_lost: Estimate | None
    rows: list[Row]
    curve: str
    band: str
    edge_reached: bool
    warning: str


def core_steps(check: ConductedCheck) -> list[Step]:
    """Return the steps with their level at the receiver [dBm]."""
    at_source = check.source_dbm - check.fixed_loss_db
    return [Step(level_dbm=at_source - a, sent=int(n), heard=int(k)) for a, n, k in check.steps]


def reading_of(check: ConductedCheck) -> LadderReading:
    """Return what a ladder says."""
    ladder = weigh(core_steps(check))
    scale = _Scale(ladder.steps)
    levels = np.linspace(scale.low, scale.high, CURVE_POINTS)
    losses = [ladder.loss_at(float(x)) for x in levels]
    rows = [
        Row(
            attenuation_db=float(a), level_dbm=step.level_dbm, sent=step.sent, heard=step.heard,
            loss=1 - step.heard / step.sent, fitted=ladder.loss_at(step.level_dbm),
            x=scale.x(step.level_dbm), y=scale.y(1 - step.heard / step.sent),
        )
        for (a, _, _), step in zip(check.steps, ladder.steps, strict=True)
    ]  # fmt: skip
    low = scale.path(levels, [one.low for one in losses])
    high = scale.path(levels[::-1], [one.high for one in losses][::-1])
    return LadderReading(
        levels=[(loss, ladder.level_at_loss(loss)) for loss in LOSSES],
        half_lost=ladder.level_at_loss(LOSSES[-1]),
        rows=sorted(rows, key=lambda row: -row.level_dbm),
        curve="M" + scale.path(levels, [one.estimate for one in losses]),
        band=f"M{low}L{high}Z",
        edge_reached=ladder.edge_reached,
        warning=_warning(ladder),
    )


def _warning(ladder: Ladder) -> str:
    if ladder.leaks:
        where = listed([level(step.level_dbm) for step in ladder.leaks])
        return (
            f"Frames arrived at {where} that no receiver this deaf could hear: they came round the "
            "cable. Shield the boards, or move them apart, and repeat those steps."
        )
    if not ladder.edge_reached:
        return (
            "No step lost between 5 and 95 % of its frames, so the sensitivity lies somewhere "
            "between two steps or beyond them. Add steps there."
        )
    return ""


class _Scale:
    """Level and loss to the drawing."""

    def __init__(self, steps: Sequence[Step]) -> None:
        levels = [step.level_dbm for step in steps]
        self.low, self.high = min(levels) - 1, max(levels) + 1

    def x(self, dbm: float) -> float:
        return round(WIDTH * (dbm - self.low) / (self.high - self.low), 1)

    def y(self, loss: float) -> float:
        return round(HEIGHT * (1 - loss), 1)

    def path(self, levels: Sequence[float], losses: Sequence[float]) -> str:
        pairs = zip(levels, losses, strict=True)
        return "L".join(f"{self.x(float(x))} {self.y(loss)}" for x, loss in pairs)
