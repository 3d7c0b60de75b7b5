"""The plan's marks on the tape: stops, and predicted ranges as hollow brackets."""

from django.urls import reverse

from inchmark.plan.adapters.stops import stops_of
from inchmark.plan.figures.stops import predicted_range
from inchmark.plan.services import site_of
from inchmark.shelf.adapters.parts import chain_of
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.studies.models import Study
from inchmark.studies.tape.marks import Marks, RangeMark, StopMark, provide


def marks(study: Study, found: Marks) -> None:
    """Hand over stops and predicted ranges."""
    page = reverse("read:reading", args=[study.pk])
    for stop in stops_of(study):
        found.stops.append(
            StopMark(
                label=stop.label,
                name=stop.name,
                distance_m=stop.distance_m,
                url=f"{page}?stop={stop.label}#stop-{stop.label}",
            )
        )
    site = site_of(study)
    for rig in rigs_of(study):
        reach = predicted_range(study, rig, site)
        found.ranges[rig.letter] = RangeMark(
            letter=rig.letter,
            name=f"! {rig.name}" if chain_of(rig) else rig.name,
            url=rig.get_absolute_url(),
            measured=False,
            low_m=reach.low_m,
            middle_m=reach.middle_m,
            high_m=reach.high_m,
        )


def register() -> None:
    """Put the plan on the tape."""
    provide(marks)
