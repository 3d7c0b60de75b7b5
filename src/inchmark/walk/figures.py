"""What the pages of the walk show."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from django.db.models import Exists, OuterRef

from inchmark.core.planning.design import PlannedVisit
from inchmark.plan.models import Stop
from inchmark.shelf.models import Rig
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
    """Return the planned visits at a stop in the order of work."""
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
        if one.stop == stop.label
    ]
