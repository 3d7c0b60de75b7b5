"""Verbs on readings: queue one, make one, keep what it teaches of its surroundings."""

from __future__ import annotations

from collections.abc import Iterator

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark import __version__
from inchmark.core.reading.analysis import MODEL_VERSION
from inchmark.core.reading.reading import Asked, read_visits
from inchmark.core.reading.taught import Taught, taught_by
from inchmark.core.wording import listed
from inchmark.formats.frame_log.columns import COLUMNS
from inchmark.read.adapters import (
    STORED,
    USUAL_SPREAD_DB,
    KeptReading,
    kept_reading,
    looked_of,
    needed_of,
    rules_of,
    walked_of,
)
from inchmark.read.models import ReadingFailure, StudyReading
from inchmark.shelf.adapters.rigs import usual_band
from inchmark.shelf.models import Surrounding
from inchmark.shelf.services.parts import save_part
from inchmark.studies.models import Study
from inchmark.studies.queue import queue_once
from inchmark.walk.adapters.visits import SUMMARY_VERSION, measured_visit, units_of
from inchmark.walk.models import Frame, FrameFile, Visit
from inchmark.walk.services.news import READING, tell
from inchmark.walk.services.summaries import summarise

KEPT_READINGS = 30


def queue_reading(study_id: int) -> None:
    """Queue a reading in the transaction that asks for it; one waits at most for each study."""
    once = f"read-{study_id}"
    queue_once("inchmark.read.tasks.read_study", "read", once=once, study_id=study_id)


def queue_missed() -> int:
    """Queue readings that are behind their study and that nothing will make; return how many.

    What has failed at this revision is left to whoever presses “Try again”.
    """
    missed = StudyReading.objects.missed()
    for study_id in missed:
        queue_reading(study_id)
    return len(missed)


def record_failure(study_id: int, problem: str) -> None:
    """Keep why a study could not be read, beside the revision it had."""
    study = Study.objects.filter(pk=study_id).first()
    if study is not None:
        ReadingFailure.objects.update_or_create(
            study=study, defaults={"revision": study.revision, "problem": problem[:400]}
        )


@transaction.atomic
def try_again(study: Study) -> None:
    """Read a study again whatever became of it before."""
    ReadingFailure.objects.filter(study=study).delete()
    queue_reading(study.pk)


def failure_of(study: Study) -> ReadingFailure | None:
    """Return why the study as it is now could not be read, None where it can or has not been."""
    return ReadingFailure.objects.filter(study=study, revision=study.revision).first()


def current_reading(study: Study) -> KeptReading | None:
    """Return the study's latest reading; one kept in another shape is read anew, not guessed at."""
    kept = kept_reading(study)
    if kept is None and study.readings.exists():
        queue_reading(study.pk)
    return kept


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
    walked = walked_of(study, [measured_visit(row) for row in rows])
    places, fixed = needed_of(study, walked)
    reading = read_visits(
        walked,
        rules=rules_of(study),
        asked=Asked(
            needed_m=study.needed_m,
            drawn_m=study.budget_distance_m,
            curves=True,
            check=True,
            looked=looked_of(study, rows),
            unit_of=units_of(study),
            places=places,
            fixed=fixed if places else None,
        ),
    )
    stored = StudyReading.objects.create(
        study=study,
        revision=study.revision,
        model_version=MODEL_VERSION,
        code_version=__version__,
        data=STORED.dump(reading),
    )
    ReadingFailure.objects.filter(study=study).delete()
    for walk_id in study.walks.values_list("pk", flat=True):
        tell(walk_id, READING)
    old = study.readings.order_by("-pk").values_list("pk", flat=True)[KEPT_READINGS:]
    StudyReading.objects.filter(pk__in=list(old)).delete()
    return stored


class ChangedMeanwhileError(Exception):
    """The study was changed while its frames were handed out; what has gone out is not whole."""


def exported_frames(study: Study) -> Iterator[bytes]:
    """Yield all frames of a study as CSV; ends short if frames change meanwhile, never mixes.

    Raises
    ------
    ChangedMeanwhileError
        The study's revision is another one than at the start.
    """
    files = FrameFile.objects.filter(walk__study=study).order_by("walk__number", "pk")
    yield (",".join(COLUMNS) + "\n").encode()
    for piece in Frame.objects.exported(list(files.values_list("pk", flat=True))):
        if not Study.objects.filter(pk=study.pk, revision=study.revision).exists():
            raise ChangedMeanwhileError(f"study {study.pk} changed during an export")
        yield piece


def _follow_the_rigs(visits: list[Visit]) -> None:
    """Sum visits up again whose rig has since been told what its RSSI holds.

    And those whose summary is of an older kind, that says less.
    """

    def told_otherwise(visit: Visit) -> bool:
        told, of = visit.rig.rssi_includes_noise, visit.summary
        older = of.get("version") != SUMMARY_VERSION
        return older or (told is not None and told != of.get("noise_in_rssi", told))

    summarise(visit for visit in visits if told_otherwise(visit))


def taught(study: Study, kept: KeptReading) -> Taught | None:
    """Return what the latest reading teaches, None where it cannot."""
    return taught_by(kept.reading, usual_band(study).centre_hz)


def keep_surrounding(study: Study, name: str) -> Surrounding:
    """Put what the walk teaches on the shelf under a name.

    Raises
    ------
    ValidationError
        There is no reading, it teaches nothing of paths, or the name is taken.
    """
    if not name:
        raise ValidationError("Give the surrounding a name, like “salt marsh, low tide”.")
    kept = kept_reading(study)
    found = taught(study, kept) if kept else None
    if found is None:
        raise ValidationError(
            "The walk does not tell a slope and a loss yet: it takes three stops and a rig whose power and antennas are known."
        )
    spread = found.shadowing_db
    kept_one: Surrounding = save_part(
        study,
        Surrounding(
            name=name,
            exponent=found.exponent.estimate,
            exponent_low=found.exponent.low,
            exponent_high=found.exponent.high,
            offset_db=found.offset_db.estimate,
            offset_low_db=found.offset_db.low,
            offset_high_db=found.offset_db.high,
            at_m=found.at_m,
            shadowing_db=spread.estimate if spread else USUAL_SPREAD_DB,
            shadowing_low_db=spread.low if spread else None,
            shadowing_high_db=spread.high if spread else None,
            frequency_hz=usual_band(study).centre_hz,
            stops=found.stops,
            walked=f"{study.title[:80]}: {listed(list(found.rigs))[:60]}, {found.stops} stops",
        ),
    )
    return kept_one
