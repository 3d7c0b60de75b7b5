"""Each rig's budget at the needed distance, walked or predicted, as it is or with what-ifs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from inchmark.core.budget import link_budget
from inchmark.core.propagation.shadowing import fade_margin_db
from inchmark.core.reading.answer import verdict
from inchmark.core.wording import distance, number
from inchmark.decide.records.ladder import Ladder, ladder_of
from inchmark.decide.records.thresholds import Threshold, thresholds_of
from inchmark.plan.models import Site
from inchmark.plan.records.paths import loss_between, surroundings_of
from inchmark.read.models import StudyReading
from inchmark.shelf.models import Rig
from inchmark.shelf.records.ends import WHAT_IF, carried_end, fixed_end, own_items
from inchmark.shelf.records.limits import LegalCheck, legal_checks
from inchmark.studies.models import Study

REFERENCE_DISTANCE_M = 500.0  # where budgets are drawn when no distance is needed
NEAR_SHARE = 0.05  # of the frequency: a path loses 0.4 dB more over it, at most


@dataclass(frozen=True, slots=True, kw_only=True)
class WalkedLoss:
    """What a way of carrying lost on the walk [dB], with limits."""

    estimate: float
    low: float
    high: float

    @property
    def as_item(self) -> str:
        """Return it as the budget's item is typed: a loss below zero, never a gain."""
        return f"{min(-self.estimate, 0.0):.2f}"


@dataclass(frozen=True, slots=True, kw_only=True)
class RigBudget:
    """A rig at the needed distance: both directions, its ranges, and whether it holds."""

    rig: Rig
    distance_m: float
    ladders: list[Ladder]
    thresholds: list[Threshold]
    legal: list[LegalCheck]
    ranges: dict[str, Any] | None
    on_stops: dict[str, Any] | None
    verdict: str
    delivery: dict[str, float | None] | None
    measured: bool
    extrapolated: bool
    what_if: bool
    walked_carries: list[tuple[str, WalkedLoss]]

    @property
    def threshold(self) -> Threshold:
        """Return the threshold the ladders stand on."""
        return next(one for one in self.thresholds if one.used)


def needed_distance_m(study: Study) -> float:
    """Return the distance budgets are drawn at [m]."""
    return study.needed_m or REFERENCE_DISTANCE_M


def budgets(study: Study, reading: StudyReading | None) -> list[RigBudget]:
    """Return every rig's budget at the needed distance."""
    rigs, site = list(study.rigs.with_parts()), Site.objects.filter(study=study).first()
    return [rig_budget(study, rig, reading, rigs, site) for rig in rigs]


def rig_budget(
    study: Study,
    rig: Rig,
    reading: StudyReading | None,
    rigs: Sequence[Rig],
    site: Site | None,
    *,
    what_if: Mapping[str, float] | None = None,
    limited_by: str = "",
) -> RigBudget:
    """Return a rig's budget.

    Parameters
    ----------
    rigs
        The rigs of the study; one that walked lends its path to one that did not.
    site
        How paths are predicted while nobody has walked.
    what_if
        Items replaced [dB] by key.
    limited_by
        Key of the threshold to stand on; the best known if empty or unknown.
    """
    data = reading.data if reading else {}
    one = data.get("rigs", {}).get(rig.letter)
    metres = needed_distance_m(study)
    path = _path(rig, rigs, data, metres, site)
    changes = what_if or {}
    own = own_items(rig, {key: db for key, db in changes.items() if key != "path"})
    carried, fixed = carried_end(rig, own), fixed_end(rig, own)
    if "path" in changes:
        path = _Path(db=-changes["path"], source=WHAT_IF, measured=path.measured)
    thresholds = thresholds_of(rig, one, data, limited_by)
    used = next(one for one in thresholds if one.used)
    kept = _kept(study, data, path, site)
    plain = path.measured and not changes and used.key == "walked"
    limits = one["needed"]["in_hand_db"] if plain and one else None
    taken: set[str] = set()
    ladders = [
        ladder_of(
            link_budget(sender, receiver, path_loss_db=path.db, path_source=path.source),
            sender=name,
            threshold=(used.dbm, used.source),
            kept=kept,
            measured=limits if name == "carried" else None,
            changed=tuple(changes),
            taken=taken,
        )
        for name, sender, receiver in (("carried", carried, fixed), ("fixed", fixed, carried))
    ]
    reach = one["range_m"]["loss_rule"] if one else None
    return RigBudget(
        rig=rig,
        distance_m=metres,
        ladders=ladders,
        thresholds=thresholds,
        legal=legal_checks(rig, study.region, own),
        ranges=one["range_m"] if one else None,
        on_stops=one["on_stops_m"] if one else None,
        verdict=verdict(reach, metres) if reach else "unknown",
        delivery=one["needed"]["delivery"] if one and path.measured else None,
        measured=path.measured,
        extrapolated=bool(one and one["extrapolated"]),
        what_if=bool(changes),
        walked_carries=_walked_carries(data),
    )


def _walked_carries(data: dict[str, Any]) -> list[tuple[str, WalkedLoss]]:
    """Return what the walk says of each way of carrying."""
    found = data.get("site", {}).get("penalties_db", {})
    return [
        (name, WalkedLoss(estimate=one["estimate"], low=one["low"], high=one["high"]))
        for name, one in found.items()
        if one["estimate"] is not None
    ]


def items_of(budget: RigBudget) -> dict[str, float]:
    """Return the items of both directions by key [dB]."""
    return {rung.key: rung.db for ladder in budget.ladders for rung in ladder.rungs}


@dataclass(frozen=True, slots=True, kw_only=True)
class _Path:
    db: float
    source: str
    measured: bool


def _path(
    rig: Rig, rigs: Sequence[Rig], data: dict[str, Any], metres: float, site: Site | None
) -> _Path:
    """Return the path loss [dB]: walked by this rig, by another near its frequency, or predicted.

    A level was measured with the rig as it walked, so the loss is what that rig's own ends leave
    of it. It is on the module's RSSI scale; a known offset is taken off here and at the threshold,
    an unknown one stays in the loss. Margins hold either way, since the threshold carries it too.
    """
    near = [one for one in rigs if abs(one.frequency_hz / rig.frequency_hz - 1) < NEAR_SHARE]
    exponent = data.get("site", {}).get("exponent", {}).get("estimate")
    for lender in sorted(near, key=lambda one: (one.letter != rig.letter, one.letter)):
        one = data.get("rigs", {}).get(lender.letter) or {}
        at = one.get("needed", {}).get("level_dbm", {}).get("estimate")
        if at is not None and exponent is not None:
            lossless = link_budget(
                carried_end(lender), fixed_end(lender), path_loss_db=0.0, path_source=""
            ).arriving_dbm
            by = "" if lender.letter == rig.letter else f" by {lender.letter}"
            slope = f"slope {number(10 * exponent)} dB per ×10"
            source = f"{distance(metres)}, {slope}, walked{by}"
            return _Path(db=lossless - (at - lender.rssi_offset_db), source=source, measured=True)
    found = loss_between(rig, site, metres)
    (name, _), *_ = found.parts
    source = ". ".join([f"{distance(metres)}, {name.lower()}, predicted", *found.warnings])
    return _Path(db=found.loss_db, source=source, measured=False)


def _kept(
    study: Study, data: dict[str, Any], path: _Path, site: Site | None
) -> tuple[float | None, str]:
    """Return what the wanted share of places needs kept [dB]: walked, or for what is predicted."""
    kept = data.get("site", {}).get("kept_for_places_db", {}).get("estimate")
    if path.measured and kept is not None:
        return kept, "walked"
    spread = surroundings_of(site).shadowing_db
    margin = float(fade_margin_db(study.places_share, spread))
    return margin, f"spread between places {spread:g} dB, as the plan has it"
