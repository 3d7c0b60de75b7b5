"""What the pages of the walk show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import Exists, OuterRef

from inchmark.core.gathering.shift import ClockShift
from inchmark.core.gathering.way import MeasuredPlace
from inchmark.core.planning.design import USUAL_WAYS, PlannedVisit
from inchmark.plan.models import Design, Site, Stop
from inchmark.shelf.models import Rig
from inchmark.walk.adapters.tracks import measured_places, way_of
from inchmark.walk.models import Frame, HandCount, Visit, Walk


@dataclass(frozen=True, slots=True, kw_only=True)
class CountRow:
    """A planned visit at one stop: what a log or somebody's hand has of it already."""

    rig: Rig
    pass_number: int
    logged: Visit | None  # with frames of a log, which go before counts
    count: HandCount | None


def _has_frames() -> Exists:
    return Exists(Frame.objects.filter(visit=OuterRef("pk")))


def count_rows(
    walk: Walk, stop: Stop, visits: Sequence[PlannedVisit], condition: str
) -> list[CountRow]:
    """Return the planned visits at a stop in the order of work; of no planned way, those as usual."""
    way = condition if any(one.way == condition for one in visits) else ""
    rigs = {rig.letter: rig for rig in walk.study.rigs.all()}
    counts = {
        (row.rig_id, row.pass_number): row
        for row in walk.counts.filter(stop=stop, condition=condition)
    }
    logged = {
        visit.rig_id: visit
        for visit in walk.visits.filter(_has_frames(), stop=stop, condition=condition).defer(
            "summary"
        )
    }
    return [
        CountRow(
            rig=rigs[one.rig],
            pass_number=one.pass_number,
            logged=logged.get(rigs[one.rig].pk),
            count=counts.get((rigs[one.rig].pk, one.pass_number)),
        )
        for one in visits
        if one.stop == stop.label and one.way == way
    ]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceRow:
    """A stop as a track measures it, beside what is kept of it [m]."""

    stop: Stop
    measured: MeasuredPlace
    apart: bool  # farther apart than both plus or minus allow


def place_rows(walk: Walk, site: Site | None) -> tuple[list[PlaceRow], str]:
    """Return the stops that a walk's tracks measure, and why there are none."""
    try:
        places = measured_places(walk, way_of(walk, site))
    except ValueError as wrong:
        return [], str(wrong)
    stops = {stop.label: stop for stop in walk.study.stops.all()}
    rows = [
        PlaceRow(stop=stops[one.stop], measured=one, apart=_apart(stops[one.stop], one))
        for one in places
    ]
    return rows, "" if rows else "No point of the tracks lies in a stay of the timeline."


def _apart(stop: Stop, measured: MeasuredPlace) -> bool:
    room = (stop.plus_minus_m or 0.0) + measured.plus_minus_m
    return abs(stop.distance_m - measured.distance_m) > room


def shift_words(found: ClockShift | None) -> str:
    """Return how far a log's clock is from a track's, in a sentence."""
    if found is None:
        return "The levels do not tell how the clocks differ: too few frames, or hardly any change of distance."
    limits = f"{-found.high_s:+.0f} to {-found.low_s:+.0f} s, 95 %"
    if found.low_s <= 0 <= found.high_s:
        return f"The levels agree with the clocks as they are ({limits})."
    return f"The levels fit distance best with {-found.estimate_s:+.0f} s added to the track’s clock ({limits})."


def thumb_context(walk: Walk) -> dict[str, object]:
    """Return what the page for counting by thumb chooses from."""
    planned = Design.objects.filter(study=walk.study).values_list("ways", flat=True).first() or []
    carried = walk.visits.exclude(condition="").values_list("condition", flat=True)
    return {
        "study": walk.study,
        "walk": walk,
        "stops": walk.study.stops.all(),
        "rigs": walk.study.rigs.all(),
        "conditions": [
            *dict.fromkeys([*carried.order_by("condition").distinct(), *planned, *USUAL_WAYS])
        ],
    }
