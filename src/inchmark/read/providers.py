"""The reading's marks on the tape: measured ranges, solid, in place of predicted ones."""

from django.urls import reverse

from inchmark.read.records import latest_rigs
from inchmark.read.services import queue_reading
from inchmark.studies.models import Study
from inchmark.studies.records import Marks, RangeMark, provide
from inchmark.studies.services import on_change


def marks(study: Study, found: Marks) -> None:
    """Hand over the measured range of each rig that has one."""
    page = reverse("read:reading", args=[study.pk])
    for letter, one in latest_rigs(study).items():
        reach, before = one["range_m"]["loss_rule"], found.ranges.get(letter)
        if before is None or reach["estimate"] is None:
            continue
        found.ranges[letter] = RangeMark(
            letter=letter, name=before.name, url=f"{page}?rig={letter}#table", measured=True,
            middle_m=reach["estimate"], low_m=reach["low"], high_m=reach["high"],
        )  # fmt: skip


def register() -> None:
    """Put the reading on the tape, and read anew when a study changes."""
    provide(marks)
    on_change(queue_reading)
