"""The field day: design, order, power, limits, kit, as the pages show them."""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass
from itertools import combinations

from inchmark.core.frame_spread import FADING_DB
from inchmark.core.planning import cautions, design
from inchmark.core.planning.design import Comparison, Confounding, PlannedVisit
from inchmark.core.reception.proportion import frames_for_half_width
from inchmark.core.wording import listed, number
from inchmark.plan.figures.clock import Day
from inchmark.plan.models import Design, SitePoint
from inchmark.shelf.adapters.ends import carried_end
from inchmark.shelf.adapters.parts import chain_of
from inchmark.shelf.adapters.rigs import rig_facts
from inchmark.shelf.figures.limits import LegalCheck, legal_checks
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study

USUAL_LOSS = 0.1  # the wanted interval is worked out around it


@dataclass(frozen=True, slots=True, kw_only=True)
class Thumb:
    """What a number of frames shows, and how many the wishes would take."""

    frames: int
    zero_lost_under: float
    for_loss: int
    for_level: int


def thumb_of(planned: Design) -> Thumb:
    """Return the rules of thumb for a design's frames and wishes."""
    return Thumb(
        frames=planned.frames,
        zero_lost_under=design.zero_lost_shows(planned.frames),
        for_loss=frames_for_half_width(USUAL_LOSS, planned.loss_within),
        for_level=design.frames_for_level(planned.level_within_db, FADING_DB),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class DesignView:
    """What the plan can compare cleanly, what it confounds, what to add."""

    clean: list[Comparison]
    mixed: list[Comparison]
    remedies: list[str]
    confounded: list[Confounding]


def _colliding(planned: Design, rigs: Sequence[Rig]) -> list[Confounding]:
    """Return the rigs that would be on the air at once on one channel."""
    if planned.arrangement != design.PEOPLE:
        return []
    near = sorted(
        {
            rig.letter
            for pair in combinations(rigs, 2)
            if abs(pair[0].frequency_hz - pair[1].frequency_hz)
            < sum(r.bandwidth_hz for r in pair) / 2
            for rig in pair
        }
    )
    if not near:
        return []
    return [
        Confounding(
            words=f"{listed(near)} send at once where their channels meet, so frames collide.",
            remedy="Give each a channel of its own, or let the rigs go together.",
        )
    ]


def design_view(planned: Design, rigs: Sequence[Rig], visits: Sequence[PlannedVisit]) -> DesignView:
    """Return what a plan with these rigs can compare."""
    varied = {rig.letter: dict(rig_facts(rig).varied) for rig in rigs}
    pairs = design.comparisons(varied)
    return DesignView(
        clean=[pair for pair in pairs if pair.clean],
        mixed=[pair for pair in pairs if len(pair.things) > 1],
        remedies=design.remedies(varied),
        confounded=[*design.confounded(visits, planned.arrangement), *_colliding(planned, rigs)],
    )


def settles(design: Design, *, needed: str, loss: float) -> str:
    """Return what result would settle the question."""
    rig = f"rig {design.rig.letter}" if design.rig else "the rig"
    if design.kind == "compare":
        against = f"rig {design.other.letter}" if design.other else "the other"
        return f"It is settled when {rig} and {against} are shown to differ by at least {number(design.wanted_db)} dB, with 95 %."
    if design.kind == "reach":
        return f"It is settled when the loss of {rig} at the stop nearest {needed} is shown to be under {100 * loss:g} %, or over it, with 95 %."
    return f"It is settled when two neighbouring stops, no more than 1.6 times apart, lie on both sides of where {rig} loses half of its frames."


@dataclass(frozen=True, slots=True, kw_only=True)
class RigLegal:
    """A rig's ends against the limits at the pace of the plan."""

    rig: Rig
    checks: list[LegalCheck]

    @property
    def fits(self) -> bool:
        """Tell whether both ends fit some row."""
        return all(check.fits for check in self.checks)


def legal_of(day: Day, region: str) -> list[RigLegal]:
    """Return each rig at the interval the plan sends at."""
    found = []
    for rig, interval, _ in day.per_visit:
        paced = copy(
            rig
        )  # rigs are shared by every page of this process: theirs is the deployment's
        paced.period_s = interval
        found.append(RigLegal(rig=paced, checks=legal_checks(paced, region)))
    return found


def condition_choices() -> list[tuple[str, str]]:
    """Return what may apply on a day, in words."""
    return [(one.key, one.when) for one in cautions.CAUTIONS]


def way_choices() -> list[tuple[str, str]]:
    """Return the ways of carrying, and what may be on beside, that are offered."""
    return [(way, way) for way in design.USUAL_WAYS]


def cautions_of(design: Design, rigs: Sequence[Rig]) -> list[cautions.Caution]:
    """Return the cautions of this plan."""
    strongest = max(
        (rig.power_dbm + carried_end(rig).antenna_gain_dbi for rig in rigs), default=-100.0
    )
    return cautions.that_apply(design.conditions, strongest_eirp_dbm=strongest)


def kit_of(study: Study, rigs: Sequence[Rig], day: Day) -> list[str]:
    """Return what to bring, from the rigs and the plan."""
    found: dict[str, None] = {}
    serials = _serials(study)
    for rig in rigs:
        units = serials.get(rig.module_part_id, [])
        named = f" (units {listed(units)})" if units else ", and a second one to swap"
        found[f"{rig.module} set to {rig.setting}{named}"] = None
        found[f"{rig.antenna} (carried end)"] = None
        if rig.fixed_antenna:
            found[f"{rig.fixed_antenna} (fixed end)"] = None
        for feed in (rig.feed_part, rig.fixed_feed_part):
            if feed:
                found[f"{feed.name}, and a spare"] = None
        for end, joint in chain_of(rig):
            found[f"{joint.adapter or 'adapter'} for rig {rig.letter}, {end}"] = None
        if rig.battery:
            stays = rig.battery.keep_on_a is not None
            found[rig.battery.name + (", or one that stays on" if stays else "")] = None
    for point in study.points.filter(kind=SitePoint.RECEIVER):
        found[f"a receiver for {point}, with antenna, feed and power"] = None
    hours = day.longest_s / 3600
    found[f"power for the receiver's log over {number(hours)} h, with a bank that stays on"] = None
    found["attenuators for the stops close by"] = None
    found["tape or rangefinder, and a phone with the stops"] = None
    found["this run sheet, pencil, spare leads"] = None
    return list(found)


def _serials(study: Study) -> dict[int | None, list[str]]:
    """Return the serials of the units in use, by module."""
    found: dict[int | None, list[str]] = {}
    rows = study.units.filter(archived=False, module__isnull=False).order_by("serial")
    for module, serial in rows.values_list("module", "serial"):
        found.setdefault(module, []).append(serial)
    return found
