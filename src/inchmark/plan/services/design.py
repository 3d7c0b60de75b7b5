"""Verbs on the design: keep it, draw the order anew, work out its power, read cautions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction
from procrastinate.contrib.django import app

from inchmark.core.planning.cautions import CAUTIONS
from inchmark.core.planning.power import power
from inchmark.core.wording import listed
from inchmark.plan.adapters.design import planned_walk, question_of
from inchmark.plan.adapters.places import fixed_ends, targets_from
from inchmark.plan.adapters.predictions import predictions
from inchmark.plan.adapters.terrain import grid_for
from inchmark.plan.adapters.walked import around_of
from inchmark.plan.figures.clock import Day, day_of
from inchmark.plan.figures.day import cautions_of, legal_of
from inchmark.plan.models import Acknowledgement, Design
from inchmark.plan.services.site import site_of
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study

STUDIES, SEED = 200, 20_261_125
LEAST_STOPS = 2


def design_of(study: Study) -> Design:
    """Return the study's design, a fresh unsaved one if there is none; rigs are preset."""
    found: Design | None = Design.objects.filter(study=study).select_related("rig", "other").first()
    if found:
        found.study = study  # known already
        return found
    rigs = list(study.rigs.all()[:2])
    return Design(
        study=study,
        kind="compare" if len(rigs) > 1 else "reach",
        rig=rigs[-1] if rigs else None,
        other=rigs[0] if len(rigs) > 1 else None,
    )


@transaction.atomic
def save_design(study: Study, design: Design) -> Design:
    """Keep a design; what was worked out for another one no longer counts."""
    design.study = study
    design.power, design.power_state, design.power_done = {}, Design.IDLE, 0
    design.full_clean()
    design.save()
    return design


@transaction.atomic
def shuffle(design: Design) -> Design:
    """Draw the order anew, from the next seed."""
    design.seed += 1
    return save_design(design.study, design)


@transaction.atomic
def queue_power(design: Design) -> Design:
    """Queue the working out of a design's power.

    Raises
    ------
    ValidationError
        The question lacks something, or there are too few stops.
    """
    _ready(design)
    design.power_state, design.power_done, design.power = Design.WAITING, 0, {}
    design.save()
    app.configure_task("inchmark.plan.tasks.work_out_power", queue="plan").defer(
        design_id=design.pk
    )
    return design


def _ready(design: Design) -> None:
    study = design.study
    try:
        question_of(design, needed_m=study.needed_m, loss=study.loss_share)
    except ValueError as wrong:
        text = str(wrong)
        raise ValidationError(f"{text[:1].upper()}{text[1:]}.") from wrong
    if study.stops.count() < LEAST_STOPS:
        raise ValidationError("Put two stops or more on the plan first.")


def work_out_power(design_id: int) -> None:
    """Walk a plan many times with the simulator, and keep how often it settles its question."""
    found = Design.objects.select_related("study", "rig", "other")
    one = found.filter(pk=design_id).first()
    if one is None:
        return
    study = one.study
    site = site_of(study)
    fixed = fixed_ends(site, [])[0]
    cells = predictions(
        targets_from(list(study.stops.all()), fixed),
        list(study.rigs.with_parts()),
        site,
        grid_for(study),
        fixed,
        around=around_of(study, site),
    )
    question = question_of(one, needed_m=study.needed_m, loss=study.loss_share)

    def tell(done: int) -> None:
        if done % 20 == 0:
            Design.objects.filter(pk=design_id).update(power_done=done, power_state=Design.RUNNING)

    result = power(
        question, planned_walk(one, cells, site), studies=STUDIES, seed=SEED, progress=tell
    )
    Design.objects.filter(pk=design_id).update(
        power_state=Design.DONE,
        power_done=STUDIES,
        power={
            "studies": result.studies,
            "settled": result.settled,
            "share": result.share,
            "low": result.limits.low,
            "high": result.limits.high,
            "revision": study.revision,
        },
    )


@transaction.atomic
def acknowledge(design: Design, keys: list[str], *, by: Any, name: str) -> int:
    """Keep that somebody has read cautions; return how many."""
    if not name.strip():
        raise ValidationError("Write your name: cautions are read by a person.")
    if design.pk is None:
        raise ValidationError("Keep the plan first.")
    known = {caution.key for caution in CAUTIONS}
    rows = [
        Acknowledgement(design=design, key=k, by=by, name=name[:80]) for k in keys if k in known
    ]
    Acknowledgement.objects.bulk_create(rows)
    return len(rows)


def start_problems(study: Study) -> list[str]:
    """Return why a planned walk may not start yet, in sentences; nothing without a kept plan."""
    one = Design.objects.filter(study=study).select_related("rig", "other").first()
    if one is None:
        return []
    one.study = study  # known already
    rigs, stops = list(study.rigs.with_parts()), list(study.stops.all())
    return problems_of(study, one, rigs, day_of(one, rigs, stops, site_of(study)))


def problems_of(study: Study, design: Design, rigs: Sequence[Rig], plan: Day) -> list[str]:
    """Return why a kept plan on the clock may not start yet, in sentences."""
    if design.pk is None:
        return []
    over = [legal.rig.letter for legal in legal_of(plan, study.region) if not legal.fits]
    found = []
    if over and not design.exception:
        found.append(
            f"Rig {listed(over)} breaks every row of the limits. Say in the plan why it may: a licence, a conducted test, a shielded room."
        )
    read = set(design.acknowledgements.values_list("key", flat=True))
    unread = [caution.when for caution in cautions_of(design, rigs) if caution.key not in read]
    if unread:
        found.append(f"Cautions of the plan are not read yet: {listed(unread)}.")
    return found
