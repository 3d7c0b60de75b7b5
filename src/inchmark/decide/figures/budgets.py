"""Each rig's budget at the needed distance, walked or predicted, as it is or with what-ifs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from inchmark.core.budget import Budget, End, EndName, ItemKey, link_budget
from inchmark.core.interval import Estimate
from inchmark.core.reading.answer import UNKNOWN, verdict
from inchmark.core.reading.result import Reading, RigReading
from inchmark.core.threshold import keep_for_rule_db
from inchmark.core.wording import distance, number
from inchmark.decide.figures.thresholds import WALKED, Threshold, thresholds_of
from inchmark.plan.adapters.paths import surroundings_of
from inchmark.plan.adapters.predictions import loss_between
from inchmark.plan.models import Site
from inchmark.read.adapters import KeptReading
from inchmark.shelf.adapters.ends import WHAT_IF, Own, carried_end, fixed_end, own_items
from inchmark.shelf.figures.limits import LegalCheck, legal_checks
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study

NEAR_SHARE = 0.05  # of the frequency: a path loses 0.4 dB more over it, at most
TITLES = {
    EndName.CARRIED: "carried end to fixed end",
    EndName.FIXED: "fixed end to carried end",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class BudgetBasis:
    """What budgets of one page stand on: the study, its rigs, its site, its latest reading.

    Everything is drawn at the one distance `metres`. While the study has changed since it was read
    that is the distance it was read at: a level is never set beside another distance.
    """

    study: Study
    rigs: Sequence[Rig]
    site: Site | None
    kept: KeptReading | None

    @property
    def reading(self) -> Reading | None:
        """Return what the walk says."""
        return self.kept.reading if self.kept else None

    @property
    def metres(self) -> float:
        """Return the distance budgets are drawn at [m]."""
        if self.kept and self.kept.stale(self.study):
            read_at = [one.needed.distance_m for one in self.kept.reading.rigs if one.needed]
            return read_at[0] if read_at else self.study.budget_distance_m
        return self.study.budget_distance_m

    @property
    def outdated(self) -> bool:
        """Tell whether what is drawn is not the distance that is needed now."""
        return self.metres != self.study.budget_distance_m


@dataclass(frozen=True, slots=True, kw_only=True)
class Direction:
    """One direction of a rig's budget: what is in hand, and what the rule wants kept [dB]."""

    sender: EndName
    budget: Budget
    threshold: Threshold
    in_hand_limits: Estimate | None
    keep_db: float
    keep_source: str

    @property
    def title(self) -> str:
        """Return the direction in words."""
        return TITLES[self.sender]

    @property
    def in_hand_db(self) -> float:
        """Return how far above the threshold the level arrives [dB]."""
        return self.budget.arriving_dbm - self.threshold.dbm


@dataclass(frozen=True, slots=True, kw_only=True)
class WhatIf:
    """Items replaced, and the threshold to stand on; the best known if empty or unknown."""

    changes: Mapping[ItemKey, float] = field(default_factory=dict)
    limited_by: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class RigBudget:
    """A rig at the needed distance: both directions, its ranges, and whether it holds."""

    rig: Rig
    distance_m: float
    directions: tuple[Direction, Direction]
    thresholds: list[Threshold]
    legal: list[LegalCheck]
    walked: RigReading | None
    verdict: str
    measured: bool
    what_if: WhatIf
    walked_carries: tuple[tuple[str, Estimate], ...]

    @property
    def in_hand_db(self) -> float:
        """Return what the carried end's frames have in hand [dB]."""
        return self.directions[0].in_hand_db

    @property
    def items(self) -> dict[ItemKey, float]:
        """Return the items of both directions; a loss is positive."""
        both = (item for one in self.directions for item in one.budget.items)
        return {item.key: item.db for item in both}


def budgets(ground: BudgetBasis) -> list[RigBudget]:
    """Return every rig's budget as it is."""
    return [rig_budget(ground, rig) for rig in ground.rigs]


def rig_budget(ground: BudgetBasis, rig: Rig, what_if: WhatIf | None = None) -> RigBudget:
    """Return a rig's budget; a rig that walked lends its path to one that did not."""
    asked = what_if or WhatIf()
    walked = ground.reading.of_rig(rig.letter) if ground.reading else None
    path = _path(ground, rig)
    if ItemKey.PATH in asked.changes:
        path = _Path(db=asked.changes[ItemKey.PATH], source=WHAT_IF, measured=path.measured)
    own = own_items(rig, {k: db for k, db in asked.changes.items() if k is not ItemKey.PATH})
    thresholds = thresholds_of(rig, ground.reading, asked.limited_by)
    return RigBudget(
        rig=rig,
        distance_m=ground.metres,
        directions=_directions(ground, rig, path, own, thresholds, plain=not asked.changes),
        thresholds=thresholds,
        legal=legal_checks(rig, ground.study.region, own),
        walked=walked,
        verdict=verdict(walked.loss_range_m, ground.metres) if walked else UNKNOWN,
        measured=path.measured,
        what_if=asked,
        walked_carries=_walked_carries(ground.reading, rig),
    )


def _walked_carries(reading: Reading | None, rig: Rig) -> tuple[tuple[str, Estimate], ...]:
    """Return what each condition cost this rig on the walk [dB]."""
    return tuple(
        (one.condition, one.level_db)
        for one in (reading.penalties if reading else ())
        if one.rig == rig.letter and one.level_db
    )


def _directions(
    ground: BudgetBasis,
    rig: Rig,
    path: _Path,
    own: Own,
    thresholds: Sequence[Threshold],
    *,
    plain: bool,
) -> tuple[Direction, Direction]:
    used = next(threshold for threshold in thresholds if threshold.used)
    keep_db, keep_source = _keep(ground, path)
    carried, fixed = carried_end(rig, own), fixed_end(rig, own)
    limits = _walked_limits(ground, rig) if plain and path.measured and used.key == WALKED else None

    def direction(sender: End, receiver: End, in_hand_limits: Estimate | None) -> Direction:
        return Direction(
            sender=sender.name,
            budget=link_budget(sender, receiver, path_loss_db=path.db, path_source=path.source),
            threshold=used,
            in_hand_limits=in_hand_limits,
            keep_db=keep_db,
            keep_source=keep_source,
        )

    return direction(carried, fixed, limits), direction(fixed, carried, None)


def _walked_limits(ground: BudgetBasis, rig: Rig) -> Estimate | None:
    walked = ground.reading.of_rig(rig.letter) if ground.reading else None
    return walked.needed.in_hand_db if walked and walked.needed else None


class _Path(NamedTuple):
    db: float
    source: str
    measured: bool


def _path(ground: BudgetBasis, rig: Rig) -> _Path:
    """Return the path loss [dB]: walked by this rig, by another near its frequency, or predicted.

    A level was measured with the rig as it was when it was read, so the loss is what that rig's
    ends left of it. It is on the module's RSSI scale at both, so an offset cancels.
    """
    for lender, walked in _lenders(ground, rig):
        exponent = ground.reading.site.exponent if ground.reading else None
        at = walked.needed.level_dbm if walked.needed else None
        if at is None or exponent is None or walked.reference_dbm is None:
            continue
        by = "" if lender == rig.letter else f" by {lender}"
        slope = f"slope {number(10 * exponent.estimate)} dB per ×10"
        return _Path(
            db=walked.reference_dbm - at.estimate,
            source=f"{distance(ground.metres)}, {slope}, walked{by}",
            measured=True,
        )
    found = loss_between(rig, ground.site, ground.metres)
    (name, _), *_ = found.parts
    words = [f"{distance(ground.metres)}, {name.lower()}, predicted", *found.warnings]
    return _Path(db=found.loss_db, source=". ".join(words), measured=False)


def _lenders(ground: BudgetBasis, rig: Rig) -> Iterator[tuple[str, RigReading]]:
    """Yield what was walked near a rig's frequency, the rig itself first."""
    near = [
        one.letter
        for one in ground.rigs
        if abs(one.frequency_hz / rig.frequency_hz - 1) < NEAR_SHARE
    ]
    for letter in sorted(near, key=lambda name: (name != rig.letter, name)):
        walked = ground.reading.of_rig(letter) if ground.reading else None
        if walked:
            yield letter, walked


def _keep(ground: BudgetBasis, path: _Path) -> tuple[float, str]:
    """Return what the loss rule needs above the threshold at a typical place [dB], and its source.

    The same rule as the ranges on the tape: frames spread within a place, places spread about the
    typical one.
    """
    walked = ground.reading.site.kept_for_places_db if ground.reading else None
    if path.measured and walked is not None:
        return walked.estimate, WALKED
    spread = surroundings_of(ground.site).shadowing_db
    rule = ground.study
    keep = keep_for_rule_db(loss=rule.loss_share, places=rule.places_share, shadowing_db=spread)
    return keep, f"spread between places {spread:g} dB, as the plan has it"
