"""The reading's marks on the tape: measured ranges, solid, in place of predicted ones."""

from django.urls import reverse

from inchmark.read.adapters import kept_rigs, newest
from inchmark.read.services import queue_reading
from inchmark.studies.models import Study
from inchmark.studies.services import on_change
from inchmark.studies.tape import Marks, RangeMark, provide


def marks(study: Study, found: Marks) -> None:
    """Hand over the measured range of each rig that has one."""
    page = reverse("read:reading", args=[study.pk])
    for one in kept_rigs(study):
        letter, reach, before = one.rig, one.loss_range_m, found.ranges.get(one.rig)
        if before is None or reach is None:
            continue
        found.ranges[letter] = RangeMark(
            letter=letter,
            name=before.name,
            url=f"{page}?rig={letter}#table",
            measured=True,
            middle_m=reach.estimate,
            low_m=reach.low,
            high_m=reach.high,
        )


def register() -> None:
    """Put the reading on the tape, and read anew when a study changes."""
    provide(marks, stamp=newest)
    on_change(queue_reading)
