"""Readings to rows and back: what the core said, kept in one shape with its version."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import lru_cache

from django.urls import reverse

from inchmark.core.prediction import WalkedLaw
from inchmark.core.reading.analysis import MODEL_VERSION, Walked
from inchmark.core.reading.expected import NeededPlace
from inchmark.core.reading.guidance import ENOUGH, WANTED_DB, Looked
from inchmark.core.reading.measured import MeasuredVisit
from inchmark.core.reading.result import Reading
from inchmark.core.reading.rules import BEST, RangeRules
from inchmark.core.reading.taught import losses_of
from inchmark.core.reading.walled import wall_facts
from inchmark.core.wording import distance, number, percent
from inchmark.formats.stored import Stored
from inchmark.plan.adapters.needed import covered_stops, needed_places
from inchmark.plan.adapters.next_stop import Wanted, place_for, place_words
from inchmark.plan.adapters.places import fixed_ends, site_facts, targets_from
from inchmark.plan.adapters.stops import stops_of
from inchmark.plan.adapters.terrain import grid_for
from inchmark.plan.adapters.terrain_law import losses_to_places, terrain_facts
from inchmark.plan.adapters.walls import walls_of
from inchmark.plan.models import Design, Site, SitePoint
from inchmark.read.models import StudyReading
from inchmark.shelf.adapters.rigs import rig_facts
from inchmark.shelf.adapters.walked import FailingStop, WalkedRigs
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study
from inchmark.walk.adapters.visits import units_by_rig
from inchmark.walk.models import Visit

__all__ = [
    "ENOUGH",
    "STORED",
    "KeptReading",
    "forget",
    "kept_reading",
    "looked_of",
    "needed_of",
    "newest",
    "next_place_words",
    "next_wanted",
    "rules_of",
    "walked_law",
    "walked_of",
    "wanted_by",
]

USUAL_SPREAD_DB = 6.0  # between places, where too few stops tell it
SCHEMA = 4  # raised when the shape of a reading changes
STORED = Stored(Reading, version=SCHEMA)


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptReading:
    """The latest reading of a study with its row: which revision it is of, and what made it."""

    reading: Reading
    row: StudyReading

    def stale(self, study: Study) -> bool:
        """Tell whether the study has changed since."""
        return self.row.revision < study.revision


def rules_of(study: Study) -> RangeRules:
    """Return the rules the study reads its ranges under."""
    return RangeRules(
        loss=study.loss_share,
        places=study.places_share,
        in_hand_db=study.in_hand_db,
        direction=study.needed_direction,
        receiver=study.needed_receiver or BEST,
        own_noise=study.own_noise,
    )


def walked_of(study: Study, visits: Iterable[MeasuredVisit]) -> Walked:
    """Return visits with all that the study knows around them."""
    site = Site.objects.filter(study=study).first()
    rigs = list(study.rigs.with_parts())
    units, stops = units_by_rig(study), list(study.stops.all())
    around = site_facts(study, site, rigs)
    terrain = terrain_facts(site, stops, grid_for(study), around)
    visits, facts = tuple(visits), covered_stops(stops, rigs, site)
    seen = {one.key.stop for one in visits}
    walls, left = wall_facts(
        walls_of(site),
        around.receivers,
        {label: one for label, one in facts.items() if label in seen},
        {rig.letter: rig.frequency_hz for rig in rigs},
    )
    return Walked(
        visits=visits,
        facts={rig.letter: rig_facts(rig, unit=units.get(rig.letter, "")) for rig in rigs},
        stops=facts,
        site=replace(around, terrain=terrain, walls=walls, walls_left=left),
    )


def looked_of(study: Study, visits: Iterable[Visit]) -> Looked:
    """Return what guidance starts from: planned stops not walked yet, the look before, the plan."""
    walked = {visit.stop_id for visit in visits}
    planned = study.stops.exclude(pk__in=walked).values_list("label", "distance_m")
    before = kept_reading(study)
    design = Design.objects.filter(study=study).first()
    return Looked(
        planned=tuple((label, metres) for label, metres in planned if metres),
        before=before.reading.guidance if before else None,
        wanted_db=design.wanted_db if design else WANTED_DB,
    )


def needed_of(
    study: Study, walked: Walked
) -> tuple[tuple[NeededPlace, ...], tuple[float, float] | None]:
    """Return the places that need a node, as seen from the fixed end, and where that stands [degrees].

    Where none is marked: any place at the needed distance.
    """
    site = Site.objects.filter(study=study).first()
    if site is None or site.lat is None or site.lon is None:
        return _anywhere(study), None
    nodes = list(study.points.filter(kind=SitePoint.NODE))
    end = fixed_ends(site, [])[0]
    grid = grid_for(study)
    paths = losses_to_places(end, nodes, grid, walked.site) if walked.site.terrain else {}
    rigs, targets = list(study.rigs.with_parts()), targets_from(nodes, end)
    found = needed_places(targets, rigs, site, walked.site, end, grid, paths)
    return found or _anywhere(study), (site.lat, site.lon)


def _anywhere(study: Study) -> tuple[NeededPlace, ...]:
    metres = study.needed_m
    if metres is None:
        return ()
    return (NeededPlace(name=f"any place at {distance(metres)}", spot=None, distance_m=metres),)


def newest(study: Study) -> int:
    """Return the number of a study's latest reading, 0 where there is none."""
    return study.readings.order_by("-pk").values_list("pk", flat=True).first() or 0


def kept_reading(study: Study) -> KeptReading | None:
    """Return the study's latest reading; None where there is none in today's shape and model.

    A reading is never changed once it is kept, so each is unfolded once in a process.
    """
    return _unfolded(newest(study))


@lru_cache(maxsize=64)
def _unfolded(pk: int) -> KeptReading | None:
    row = StudyReading.objects.filter(pk=pk).first()
    if row is None or row.model_version != MODEL_VERSION:
        return None
    reading, row.data = STORED.load(row.data), {}
    return None if reading is None else KeptReading(reading=reading, row=row)


def forget() -> None:
    """Forget readings unfolded in this process."""
    _unfolded.cache_clear()


def next_wanted(study: Study) -> Wanted | None:
    """Return where the latest reading says to stand next; None where it is enough or not known."""
    kept = kept_reading(study)
    return wanted_by(kept) if kept else None


def wanted_by(kept: KeptReading) -> Wanted | None:
    """Return where a reading says to stand next; None where it is enough or not known."""
    guided = kept.reading.guidance
    if guided is None or guided.verdict == ENOUGH:
        return None
    return Wanted(guided.next_m, guided.next_label, guided.sentence)


def next_place_words(study: Study, kept: KeptReading) -> str:
    """Return where to stand next by the planned route, empty where that is not known."""
    return per_revision(study, "next-place", lambda: _place_words(study, kept), kept.row.pk)


def _place_words(study: Study, kept: KeptReading) -> str:
    wanted = wanted_by(kept)
    if wanted is None:
        return ""
    site = Site.objects.filter(study=study, lat__isnull=False).first()
    if site is None:
        return ""  # without coordinates a distance is no place
    return place_words(place_for(wanted, site, stops_of(study)))


def walked_rigs(study: Study) -> WalkedRigs | None:
    """Return what the latest reading says of rigs for the shelf; None where there is none."""
    kept = kept_reading(study)
    if kept is None:
        return None
    site = kept.reading.site
    exponent = site.exponent.estimate if site and site.exponent else None
    return WalkedRigs(
        exponent=exponent,
        words=f"{len({one.stop for one in kept.reading.visits})} stops walked here",
        ranges_m={
            one.rig: one.loss_range_m.estimate for one in kept.reading.rigs if one.loss_range_m
        },
        failing=_failing(study, kept.reading),
    )


def _failing(study: Study, reading: Reading) -> dict[str, list[FailingStop]]:
    """Return the stops at which rigs lost more than the rule allows, by letter, the nearest first."""
    found: dict[str, list[FailingStop]] = {}
    for one in sorted(reading.visits, key=lambda one: one.distance_m):
        if one.loss.estimate <= study.loss_share or not one.sent:
            continue
        stops = found.setdefault(one.rig, [])
        if all(known.stop != one.stop for known in stops):
            words = f"{percent(one.loss.estimate)} lost at {distance(one.distance_m)}"
            url = reverse("read:visit", args=[study.pk, one.ref]) if one.ref else ""
            stops.append(FailingStop(stop=one.stop, words=words, url=url))
    return found


def walked_law(study: Study) -> WalkedLaw | None:
    """Return what the latest reading says of paths; None where it cannot say."""
    kept = kept_reading(study)
    site = kept.reading.site if kept else None
    if kept is None or site is None or site.exponent is None:
        return None
    found = losses_of(kept.reading)
    if not found:
        return None
    spread = site.shadowing_db.estimate if site.shadowing_db else USUAL_SPREAD_DB
    beside = " beside the walls" if site.wall_factor else ""
    slope = f"slope {number(10 * site.exponent.estimate)} dB per ×10{beside}"
    return WalkedLaw(
        loss_db=sum(loss.estimate for _, loss in found.values()) / len(found),
        at_m=next(iter(found.values()))[0],
        exponent=site.exponent.estimate,
        shadowing_db=spread,
        by_rig=tuple((rig, loss.estimate) for rig, (_, loss) in found.items()),
        wall_factor=site.wall_factor.estimate if site.wall_factor else None,
        words=f"{slope}, {len({one.stop for one in kept.reading.visits})} stops walked",
    )
