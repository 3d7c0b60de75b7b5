"""Verbs on readings: queue one, make one."""

from __future__ import annotations

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from inchmark import __version__
from inchmark.core.reading.notes import notes_of
from inchmark.core.reading.reading import MODEL_VERSION, as_dict, read_visits
from inchmark.core.reading.units import split_by_unit
from inchmark.formats.study_files import note_as_dict
from inchmark.plan.records import facts_of as stop_facts
from inchmark.plan.services import site_of
from inchmark.read.models import StudyReading
from inchmark.read.records import rules_of
from inchmark.shelf.records.rigs import facts_of as rig_facts
from inchmark.studies.models import Study
from inchmark.walk.models import Visit
from inchmark.walk.records import measured_visit, units_of
from inchmark.walk.services.summaries import summarise

KEPT_READINGS = 30


def queue_reading(study_id: int) -> None:
    """Queue a reading; one that waits already will see the change."""
    task = app.configure_task(
        "inchmark.read.tasks.read_study", queue="read", queueing_lock=f"read-{study_id}"
    )
    try:
        with transaction.atomic():
            task.defer(study_id=study_id)
    except AlreadyEnqueued:
        return


def make_reading(study_id: int) -> StudyReading | None:
    """Read a study's visits and keep what they say; None if the study is gone."""
    study = Study.objects.filter(pk=study_id).first()
    if study is None:
        return None
    rows = list(
        Visit.objects.filter(walk__study=study, sent__gt=0)
        .select_related("rig", "stop", "walk")
        .order_by("pk")
    )
    _follow_the_rigs(rows)
    site = site_of(study)
    measured = [measured_visit(row) for row in rows]
    facts = {rig.letter: rig_facts(rig) for rig in study.rigs.with_parts()}
    reading = read_visits(
        measured,
        facts,
        {stop.label: stop_facts(stop, site) for stop in study.stops.all()},
        rules=rules_of(study),
    )
    data = as_dict(reading, curves=True, needed_m=study.needed_m)
    data["units"] = split_by_unit(measured, units_of(study), facts)
    stored = StudyReading.objects.create(
        study=study, revision=study.revision, model_version=MODEL_VERSION, code_version=__version__,
        visit_ids=[row.pk for row in rows],
        data=data,
        notes=[note_as_dict(note) for note in notes_of(reading)],
        problem=reading.why_no_fit if rows else "",
    )  # fmt: skip
    old = study.readings.order_by("-pk").values_list("pk", flat=True)[KEPT_READINGS:]
    StudyReading.objects.filter(pk__in=list(old)).delete()
    return stored


def _follow_the_rigs(visits: list[Visit]) -> None:
    """Sum visits up again whose rig has since been told what its RSSI holds."""

    def told_otherwise(visit: Visit) -> bool:
        told = visit.rig.rssi_includes_noise
        return told is not None and told != visit.summary.get("noise_in_rssi", told)

    summarise(visit for visit in visits if told_otherwise(visit))
