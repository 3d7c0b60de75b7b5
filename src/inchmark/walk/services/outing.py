"""Starting a walk, and logging a visit at which nothing was heard."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Max

from inchmark.core.reception.sequence import expected_sent
from inchmark.plan.models import Stop
from inchmark.shelf.models import Rig, Unit
from inchmark.studies.models import Study
from inchmark.studies.services import touch
from inchmark.walk.adapters.visits import latest_counts
from inchmark.walk.models import Visit, Walk, WalkUnit
from inchmark.walk.services.summaries import summarise


@transaction.atomic
def start_walk(study: Study, **fields: Any) -> Walk:
    """Return a new walk with the study's next number."""
    last = study.walks.aggregate(last=Max("number"))["last"] or 0
    walk = Walk(study=study, number=last + 1, **fields)
    walk.full_clean()
    walk.save()
    return walk


@transaction.atomic
def change_walk(walk: Walk) -> Walk:
    """Keep a changed walk.

    Its visits are summed up again, since counts can rest on its interval.
    """
    walk.full_clean()
    walk.save()
    summarise(walk.visits.select_related("rig", "walk"))
    touch(walk.study)
    return walk


@transaction.atomic
def name_units(walk: Walk, carried: Mapping[Rig, Unit | None], fixed: Unit | None) -> Walk:
    """Keep which units were carried, by rig, and which one stood at the fixed end."""
    walk.units.filter(rig__in=list(carried)).delete()
    for rig, unit in carried.items():
        if unit is not None:
            WalkUnit.objects.create(walk=walk, rig=rig, unit=unit)
    walk.fixed_unit = fixed
    walk.save(update_fields=["fixed_unit"])
    touch(walk.study)
    return walk


@transaction.atomic
def log_silent_visit(
    walk: Walk, rig: Rig, stop: Stop, *, sent: int | None, minutes: float | None
) -> Visit:
    """Log that a rig stood at a stop and nothing was heard.

    Sent counts come from the interval if not typed.
    """
    if not sent:
        if not (minutes and walk.interval_s):
            raise ValidationError(
                "Say how many frames went out, or how many minutes you waited (the walk then needs its beacon interval)."
            )
        sent = expected_sent(duration_s=minutes * 60, interval_s=walk.interval_s)
    visit, _ = Visit.objects.get_or_create(
        walk=walk, rig=rig, stop=stop, condition="", direction="", receiver=""
    )
    if visit.frames.exists():
        raise ValidationError(
            f"Rig {rig.letter} has frames at stop {stop.label} in this walk, so it was not silent."
        )
    if latest_counts(visit):
        raise ValidationError(
            f"Rig {rig.letter} was counted by hand at stop {stop.label} in this walk. Change the counts of that stop instead."
        )
    visit.silent_sent = sent
    visit.save(update_fields=["silent_sent"])
    summarise([visit])
    touch(walk.study)
    return visit
