"""What truly holds on a practice site, and how far its rigs truly reach."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.interval import Estimate
from inchmark.core.practice.scenarios import LOOK_ALIKE, Scenario
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.simulation import SimulatedRig
from inchmark.core.threshold import keep_for_rule_db

LEVEL_OFF_DB, THRESHOLD_OFF_DB = 1.5, 1.0  # how far a real board is from its datasheet, spread
SWAPPED_DB = 11.0  # what a look-alike board is short of


@dataclass(frozen=True, slots=True, kw_only=True)
class Truth:
    """The law of a site, and its boards as they really are."""

    exponent: float
    shadowing_db: float
    loss_1m_db: float
    rigs: Mapping[str, SimulatedRig]

    def range_m(self, rig: str, *, loss: float, places: float) -> float:
        """Return how far a rig truly keeps the loss rule [m]."""
        one = self.rigs[rig]
        keep = keep_for_rule_db(loss=loss, places=places, shadowing_db=self.shadowing_db)
        over = one.level_at_1m_dbm - self.loss_1m_db - one.threshold_dbm - keep
        return float(10 ** (over / (10 * self.exponent)))

    def margin_db(self, rig: str, against: str) -> float:
        """Return what a rig truly has on another, level over threshold [dB]."""
        one, other = self.rigs[rig], self.rigs[against]
        return (one.level_at_1m_dbm - one.threshold_dbm) - (
            other.level_at_1m_dbm - other.threshold_dbm
        )


def truth_of(
    scenario: Scenario, seed: int, designed: Mapping[str, SimulatedRig], frequency_hz: float
) -> Truth:
    """Return the truth of a site: boards a little off their datasheets, a look-alike far off.

    `designed` holds what the shelf says of each rig, level before any path [dBm].
    """
    random = np.random.default_rng([seed, 5])
    rigs = {
        letter: replace(
            one,
            level_at_1m_dbm=one.level_at_1m_dbm + float(random.normal(0, LEVEL_OFF_DB)),
            threshold_dbm=one.threshold_dbm + float(random.normal(0, THRESHOLD_OFF_DB)),
        )
        for letter, one in sorted(designed.items())
    }
    if LOOK_ALIKE in scenario.traps and "B" in rigs:
        short = rigs["B"].level_at_1m_dbm - SWAPPED_DB
        rigs["B"] = replace(rigs["B"], level_at_1m_dbm=short)
    return Truth(
        exponent=scenario.exponent,
        shadowing_db=scenario.shadowing_db,
        loss_1m_db=float(free_space_loss_db(1.0, frequency_hz)),
        rigs=rigs,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Held:
    """One thing claimed, held against the truth; `claimed` is None where nothing was claimed of it."""

    what: str
    unit: str
    true: float
    claimed: Estimate | None

    @property
    def inside(self) -> bool | None:
        """Tell whether the truth lies within the claimed limits."""
        if self.claimed is None:
            return None
        return self.claimed.low <= self.true <= self.claimed.high


def tally(held: Sequence[Held]) -> tuple[int, int]:
    """Return how many truths lie within the limits claimed, of how many that were claimed."""
    told = [one.inside for one in held if one.inside is not None]
    return sum(told), len(told)
