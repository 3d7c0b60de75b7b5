"""A practice walk: a site is set up, walked blind within its time, claimed, and its truth shown."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from inchmark.core.geodesy import Place, destination
from inchmark.core.practice.scenarios import LOOK_ALIKE, offered, scenario_of
from inchmark.core.practice.truth import Truth, truth_of
from inchmark.core.reading.answer import answer_of
from inchmark.core.wording import number
from inchmark.decide.services.decisions import standing
from inchmark.devices.simulator.ground import PowerLaw
from inchmark.devices.simulator.traps import TRAPS
from inchmark.learn.figures.sites import board_of
from inchmark.learn.models import Practice
from inchmark.plan.adapters.stops import geodesic_m
from inchmark.plan.models import Site, Stop
from inchmark.plan.services import place_fixed_end, save_stop, site_of
from inchmark.read.services import current_reading
from inchmark.shelf.models import CloseRange
from inchmark.shelf.services.bench import keep_close_range
from inchmark.shelf.services.rigs import save_rig
from inchmark.shelf.services.shelf_files import starter_shelf, take_in
from inchmark.shelf.services.starter import MODULE, starter_rig
from inchmark.studies.models import Study
from inchmark.studies.services import start_study
from inchmark.walk.models import Walk
from inchmark.walk.services.boards import World, designed, minutes_of, start_boards
from inchmark.walk.services.outing import name_units, start_walk
from inchmark.walk.services.receive import RefusedError

START = Place(lat_deg=44.2, lon_deg=-24.6)  # open ocean: nobody lives there
HEIGHT_M, FIXED_HEIGHT_M, INTERVAL_S = 1.0, 4.0, 5.0
GOOD, BAD = (-44.0, -58.0), (-56.0, -69.0)  # close-range levels of a good board and of the other


@transaction.atomic
def begin_practice(by: Any, key: str, seed: int) -> Practice:
    """Return a practice with its rigs on the shelf and its places on the plan; nothing is walked."""
    scenario = scenario_of(key, seed)
    study = start_study(
        by=by, title=f"Practice · {scenario.title}"[:120], kind=Study.PRACTICE,
        question=scenario.question, needed_m=scenario.needed_m,
    )  # fmt: skip
    site = Site(
        fixed_name="mast", lat=START.lat_deg, lon=START.lon_deg, model="log_distance",
        openness="middling",
    )  # fmt: skip
    place_fixed_end(study, site)
    take_in(study, starter_shelf())
    for letter, parts in zip("ABC", scenario.rigs, strict=False):
        rig = starter_rig(
            study, letter, *parts, height_m=HEIGHT_M, fixed_height_m=FIXED_HEIGHT_M,
            housing_loss_db=scenario.housing_db,
        )  # fmt: skip
        save_rig(study, rig)
    for place in offered(scenario, seed):
        at = destination(START, place.bearing_deg, place.metres)
        known = (
            {"distance_m": place.road_m, "method": "road", "plus_minus_m": None}
            if place.road_m
            else {
                "distance_m": place.metres,
                "method": "rangefinder",
                "plus_minus_m": round(0.02 * place.metres, 2),
            }
        )
        save_stop(
            study,
            Stop(label=place.label, name=place.name, lat=round(at.lat_deg, 6),
                 lon=round(at.lon_deg, 6), **known),
        )  # fmt: skip
    if LOOK_ALIKE in scenario.traps:
        _checked_on_the_bench(study)
    return Practice.objects.create(study=study, scenario=key, seed=seed)


def _checked_on_the_bench(study: Study) -> None:
    """Keep the check that tells the look-alike: its unit is far under its twins."""
    rig = study.rigs.get(letter="B")
    for unit, (parallel, crossed) in zip(_units(study), (GOOD, BAD, GOOD), strict=False):
        check = CloseRange(
            rig=rig, unit=unit.serial, checked_on=timezone.localdate(), parallel_dbm=parallel,
            crossed_dbm=crossed, good=parallel == GOOD[0],
        )  # fmt: skip
        keep_close_range(study, check)


def _units(study: Study) -> list[Any]:
    return list(study.units.filter(module__name=MODULE).order_by("serial"))


def hidden_truth(practice: Practice) -> Truth:
    """Return what truly holds on a practice's site."""
    rigs = list(practice.study.rigs.with_parts())
    scenario = scenario_of(practice.scenario, practice.seed)
    return truth_of(scenario, practice.seed, designed(rigs), rigs[0].frequency_hz)


def world_of(walk: Walk) -> World | None:
    """Return the world a walk of a practice leads through; None for any other study.

    Raises
    ------
    RefusedError
        The walk was not begun on the practice's page.
    """
    practice = Practice.objects.filter(study_id=walk.study_id).first()
    if practice is None or not walk.study.rigs.exists():
        return None
    if str(walk.number) not in practice.walked:
        raise RefusedError(
            "Send the boards of a practice out from its own page, where the minutes are counted."
        )
    scenario, truth = scenario_of(practice.scenario, practice.seed), hidden_truth(practice)
    stops = _true_stops(walk.study, practice.walked[str(walk.number)]["stops"])
    ground = PowerLaw(
        farthest_m=4 * scenario.needed_m, loss_1m_db=truth.loss_1m_db, exponent=truth.exponent,
        shadowing_db=truth.shadowing_db, random=np.random.default_rng([practice.seed, 3]),
    )  # fmt: skip
    return World(
        boards=truth.rigs, ground=ground, stops=stops,
        traps=frozenset(scenario.traps) & TRAPS.keys(),
    )  # fmt: skip


def _true_stops(study: Study, chosen: Sequence[str]) -> list[tuple[str, float]]:
    """Return stops where they really are: by their coordinates, else as typed."""
    site = site_of(study)
    rows = [one for one in study.stops.all() if one.label in chosen]
    placed = [(one.label, geodesic_m(site, one.lat, one.lon) or one.distance_m) for one in rows]
    return sorted(((label, float(metres)) for label, metres in placed), key=lambda one: one[1])


@transaction.atomic
def walk_blind(practice: Practice, stops: Sequence[str], frames: int, by: Any) -> Walk:
    """Send the boards out to some stops, if there is time for it.

    Raises
    ------
    ValidationError
        The truth has been shown, fewer than two stops were named, or the time does not suffice.
    """
    practice = Practice.objects.select_for_update().get(pk=practice.pk)
    study = practice.study
    if practice.shown_at:
        raise ValidationError("The truth of this site has been shown; begin another practice.")
    known = {one.label for one in study.stops.all()}
    chosen = [one for one in stops if one in known]
    if len(chosen) < 2:
        raise ValidationError("Choose two stops or more to walk to.")
    walk = start_walk(
        study, walked_on=timezone.localdate(), interval_s=INTERVAL_S, frames_per_visit=frames
    )
    practice.walked[str(walk.number)] = {"stops": chosen, "minutes": 0.0}
    practice.save(update_fields=["walked"])
    minutes, left = minutes_of(walk), minutes_left(practice)
    if minutes > left:
        raise ValidationError(
            f"This walk takes {number(minutes, 0)} minutes and {number(left, 0)} are left. Choose fewer stops or fewer frames."
        )
    practice.walked[str(walk.number)]["minutes"] = round(minutes, 1)
    practice.save(update_fields=["walked"])
    name_units(walk, dict(zip(study.rigs.all(), _units(study), strict=False)), None)
    start_boards(walk, by=by)
    return walk


def minutes_left(practice: Practice) -> float:
    """Return how many minutes are left to walk."""
    return board_of(practice).left


@transaction.atomic
def show_truth_of(practice: Practice) -> Practice:
    """Freeze what was read and decided as the claim; from then on the truth may be seen.

    Raises
    ------
    ValidationError
        Nothing was read yet, or the reading is behind the study.
    """
    practice = Practice.objects.select_for_update().get(pk=practice.pk)
    if practice.shown_at:
        return practice
    kept = current_reading(practice.study)
    if kept is None or not kept.reading.rigs:
        raise ValidationError("Nothing has been read yet that you could claim. Walk first.")
    if kept.stale(practice.study):
        raise ValidationError("The walk is still being read; look again in a moment.")
    decision = standing(practice.study)
    reading = kept.reading
    practice.claim = {
        "answer": answer_of(reading).sentence.rstrip("."),
        "decision": decision.name if decision else "",
        "exponent": _limits(reading.site.exponent),
        "shadowing": _limits(reading.site.shadowing_db),
        "ranges": {one.rig: _limits(one.loss_range_m) for one in reading.rigs},
        "margins": [
            [one.rig, one.against, _limits(one.margin_db)] for one in reading.main_differences
        ],
        "notes": [[one.code, one.title] for one in reading.notes],
    }
    practice.shown_at = timezone.now()
    practice.save(update_fields=["claim", "shown_at"])
    return practice


def _limits(estimate: Any) -> list[float] | None:
    return [estimate.estimate, estimate.low, estimate.high] if estimate else None
