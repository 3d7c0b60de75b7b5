"""Conducted ladder: losses against level through cable and attenuators, to a measured sensitivity.

Losses follow eps + (1 - eps) Phi((theta - level) / w): half of the frames are lost at theta, w is
the softness of the waterfall, eps what is lost at any level. The three are weighed on a grid that
narrows around what carries weight, so that a ladder of three steps has honest limits and needs no
optimiser.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr, ndtri

from inchmark.core.checks import Floats, fraction
from inchmark.core.interval import Estimate

SOFTNESS_PRIOR = (np.log(1.2), 0.6)  # ln dB; as in the link model, a little wider
FLOOR_PRIOR = (np.log(0.005 / 0.995), 1.2)  # logit
REACH_DB = 20.0  # theta is looked for so far beyond the steps
LEAK_EXPECTED, LEAK_SEEN = 0.01, 0.03
MIN_STEPS = 3
SPREAD = (-3.2, 3.2)  # of the standard normals behind softness and floor
_GRID = (121, 25, 15)
_REFINEMENTS = 2  # a sharp ladder knows theta to hundredths of a dB; the grid must not be coarser
_NOTHING = 1e-6


@dataclass(frozen=True, slots=True, kw_only=True)
class Step:
    """One step of the ladder: level at the receiver [dBm], frames sent and heard."""

    level_dbm: float
    sent: int
    heard: int

    def __post_init__(self) -> None:
        """Refuse impossible counts and levels."""
        if not np.isfinite(self.level_dbm):
            raise ValueError(f"level_dbm={self.level_dbm!r} must be a number")
        if not (self.sent > 0 and 0 <= self.heard <= self.sent):
            raise ValueError(f"heard={self.heard!r} must be from 0 to sent={self.sent!r}, above 0")


@dataclass(frozen=True, slots=True, kw_only=True)
class WeighedLadder:
    """A weighed ladder: points of the grid (points,) with their weights."""

    steps: tuple[Step, ...]
    theta_dbm: Floats
    softness_db: Floats
    floor: Floats
    weight: Floats

    def level_at_loss(self, loss: float) -> Estimate | None:
        """Return the level [dBm] at which a share of frames is lost; None at or below the floor."""
        fraction("loss", loss)
        above = loss > self.floor
        if float(np.sum(self.weight[above])) < 0.975:  # the floor may well lie above it
            return None
        share = (loss - self.floor[above]) / (1 - self.floor[above])
        levels = self.theta_dbm[above] - self.softness_db[above] * ndtri(share)
        return _weighted(levels, self.weight[above])

    def loss_at(self, level_dbm: float) -> Estimate:
        """Return the share lost at a level [dBm]."""
        return _weighted(self._loss(level_dbm), self.weight)

    def _loss(self, level_dbm: float) -> Floats:
        fall = ndtr((self.theta_dbm - level_dbm) / self.softness_db)
        loss: Floats = self.floor + (1 - self.floor) * fall
        return loss

    @property
    def edge_reached(self) -> bool:
        """Tell whether some step lost between 5 and 95 % of its frames."""
        return any(0.05 <= 1 - s.heard / s.sent <= 0.95 for s in self.steps)

    @property
    def leaks(self) -> tuple[Step, ...]:
        """Return steps at which frames arrived that should not have: they came round the cable.

        The ladder is weighed again without the step in question, so that a leak cannot hide itself.
        """
        return tuple(step for step in self.steps if self._leaks(step))

    def _leaks(self, step: Step) -> bool:
        others = [one for one in self.steps if one.level_dbm > step.level_dbm]
        distinct = len({one.level_dbm for one in others})
        if step.heard < LEAK_SEEN * step.sent or distinct < MIN_STEPS:
            return False
        rest = weigh(others)
        return rest.edge_reached and 1 - rest.loss_at(step.level_dbm).low < LEAK_EXPECTED


def weigh(steps: Sequence[Step]) -> WeighedLadder:
    """Return the weighed ladder of at least three steps at different levels.

    Raises
    ------
    ValueError
        Too few steps.
    """
    levels = np.array([step.level_dbm for step in steps])
    if len(set(levels.tolist())) < MIN_STEPS:
        raise ValueError(f"steps={len(steps)} must be at {MIN_STEPS} different levels or more")
    span = np.array([*SPREAD, *SPREAD]).reshape(2, 2)
    box = np.array([[levels.min() - REACH_DB, levels.max() + REACH_DB], *span])
    points, weight = _weigh_box(steps, box)
    for _ in range(_REFINEMENTS):
        box = _narrowed(box, points, weight)
        points, weight = _weigh_box(steps, box)
    kept = weight > 1e-9
    return WeighedLadder(
        steps=tuple(steps),
        theta_dbm=points[0, kept],
        softness_db=np.exp(SOFTNESS_PRIOR[0] + SOFTNESS_PRIOR[1] * points[1, kept]),
        floor=_floor(points[2, kept]),
        weight=weight[kept] / np.sum(weight[kept]),
    )


def both_ways(steps: Sequence[Step]) -> tuple[WeighedLadder, WeighedLadder] | None:
    """Return the steps weighed apart as the level fell and as it rose; None where one way lacks steps.

    In the order made. A receiver that holds on to a signal it would not find again shows it so; a
    step at a turn belongs to both ways.
    """
    falling: list[Step] = []
    rising: list[Step] = []
    for before, step in itertools.pairwise(steps):
        way = falling if step.level_dbm < before.level_dbm else rising
        if step.level_dbm == before.level_dbm:
            continue
        if not way or way[-1] is not before:
            way.append(before)
        way.append(step)
    ways = (falling, rising)
    if any(len({one.level_dbm for one in way}) < MIN_STEPS for way in ways):
        return None
    return weigh(falling), weigh(rising)


def _floor(z: Floats) -> Floats:
    floor: Floats = 1 / (1 + np.exp(-(FLOOR_PRIOR[0] + FLOOR_PRIOR[1] * z)))
    return floor


def _weigh_box(steps: Sequence[Step], box: Floats) -> tuple[Floats, Floats]:
    """Return grid points (3, n): theta [dBm], standard softness and floor; and their weights."""
    axes = [np.linspace(low, high, n) for (low, high), n in zip(box, _GRID, strict=True)]
    points = np.stack([one.ravel() for one in np.meshgrid(*axes, indexing="ij")])
    theta, softness, floor = points
    w, e = np.exp(SOFTNESS_PRIOR[0] + SOFTNESS_PRIOR[1] * softness), _floor(floor)
    log_weight = -0.5 * (softness**2 + floor**2)
    for step in steps:
        loss = np.clip(e + (1 - e) * ndtr((theta - step.level_dbm) / w), 1e-300, 1 - 1e-16)
        log_weight += (step.sent - step.heard) * np.log(loss) + step.heard * np.log1p(-loss)
    weight = np.exp(log_weight - log_weight.max())
    return points, weight / np.sum(weight)


def _narrowed(box: Floats, points: Floats, weight: Floats) -> Floats:
    """Return the box around the grid lines that carry weight, one line of room on each side."""
    edges = []
    for axis, (low, high), n in zip(points, box, _GRID, strict=True):
        carried = axis[weight > _NOTHING * weight.max()]
        room = (high - low) / (n - 1)
        edges.append([max(carried.min() - room, low), min(carried.max() + room, high)])
    return np.array(edges)


def _weighted(values: Floats, weight: Floats) -> Estimate:
    """Return median and 95 % limits of weighted values, between the points of the grid."""
    order = np.argsort(values)
    total = np.cumsum(weight[order]) - 0.5 * weight[order]
    low, middle, high = np.interp((0.025, 0.5, 0.975), total / float(np.sum(weight)), values[order])
    return Estimate(float(middle), float(low), float(high))
