"""The reading's marks on the tape: measured ranges, solid, in place of predicted ones."""

from django.urls import reverse

from inchmark.plan.adapters.next_stop import provide_next
from inchmark.plan.adapters.walked import provide_walked
from inchmark.read.adapters import (
    kept_reading,
    newest,
    next_place_words,
    next_wanted,
    walked_law,
    walked_rigs,
    wanted_by,
)
from inchmark.read.services import queue_reading
from inchmark.shelf.adapters.walked import provide_walked_rigs
from inchmark.studies.models import Study
from inchmark.studies.services import on_change
from inchmark.studies.tape.marks import Marks, NextMark, RangeMark, provide


def marks(study: Study, found: Marks) -> None:
    """Hand over the measured range of each rig that has one."""
    page = reverse("read:reading", args=[study.pk])
    kept = kept_reading(study)
    if kept is None:
        return
    wanted = wanted_by(kept)
    if wanted is not None:
        found.next = NextMark(
            distance_m=wanted.distance_m,
            words=f"{wanted.why} {next_place_words(study, kept)}".strip(),
            url=f"{page}#guidance",
        )
    for one in kept.reading.rigs:
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
    """Put the reading on the tape, let Plan follow it, and read anew when a study changes."""
    provide(marks, stamp=newest)
    provide_walked(walked_law)
    provide_next(next_wanted)
    provide_walked_rigs(walked_rigs)
    on_change(queue_reading)
