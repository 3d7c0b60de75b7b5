"""What is done for a study in the background: what waits, runs or failed, and how it is tried again."""

from __future__ import annotations

from dataclasses import dataclass

from django.urls import reverse

from inchmark.plan.models import Design, SiteMap
from inchmark.read.models import StudyReading
from inchmark.read.services import failure_of
from inchmark.studies.models import Study
from inchmark.walk.models import FrameFile, Visit

WAITS, FAILED, ASKS = "waits or runs", "failed", "waits for an answer"
POWER_FAILED = "The power of the plan could not be worked out."
_FILE_STATES = {
    FrameFile.WAITING: WAITS,
    FrameFile.RECEIVING: WAITS,
    FrameFile.FAILED: FAILED,
    FrameFile.ASKING: ASKS,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Work:
    """One piece of work: what for, how it stands and why, and the addresses to see or redo it."""

    what: str
    state: str
    where: str
    reason: str = ""
    again: str = ""  # posted to, tries it again

    @property
    def failed(self) -> bool:
        """Tell whether it was given up."""
        return self.state == FAILED


def work_of(study: Study) -> list[Work]:
    """Return what is not done: failed first, then what asks, then what waits or runs."""
    found = [*_logs(study), *_reading(study), *_maps(study), *_power(study)]
    return sorted(found, key=lambda work: [FAILED, ASKS, WAITS].index(work.state))


def _logs(study: Study) -> list[Work]:
    files = FrameFile.objects.filter(walk__study=study, state__in=_FILE_STATES)
    return [
        Work(
            what=f"the log {file.name} of {file.walk}",
            state=_FILE_STATES[file.state],
            reason=file.problem,
            where=reverse("walk:recipe", args=[study.pk, file.pk])
            if file.state == FrameFile.ASKING
            else file.walk.get_absolute_url(),
            again=reverse("walk:file-again", args=[study.pk, file.pk])
            if file.state == FrameFile.FAILED
            else "",
        )
        for file in files.select_related("walk")
    ]


def _reading(study: Study) -> list[Work]:
    failure, where = failure_of(study), reverse("read:reading", args=[study.pk])
    if failure is not None:
        again = reverse("read:again", args=[study.pk])
        return [
            Work(what="the reading", state=FAILED, reason=failure.problem, where=where, again=again)
        ]
    latest = StudyReading.objects.filter(study=study).order_by("-revision").first()
    told = Visit.objects.filter(walk__study=study, sent__gt=0)
    behind = told.exists() if latest is None else latest.revision < study.revision
    return [Work(what="the reading", state=WAITS, where=where)] if behind else []


def _maps(study: Study) -> list[Work]:
    maps = SiteMap.objects.filter(
        study=study, state__in=(Design.WAITING, Design.RUNNING, Design.FAILED)
    )
    return [
        Work(
            what=f"the map of rig {one.rig.letter}",
            state=FAILED if one.state == Design.FAILED else WAITS,
            reason=one.problem,
            where=reverse("plan:map", args=[study.pk]),
            again=reverse("plan:map-draw", args=[study.pk, one.rig_id])
            if one.state == Design.FAILED
            else "",
        )
        for one in maps.select_related("rig").defer("bands")
    ]


def _power(study: Study) -> list[Work]:
    design = Design.objects.filter(
        study=study, power_state__in=(Design.WAITING, Design.RUNNING, Design.FAILED)
    ).first()
    if design is None:
        return []
    failed = design.power_state == Design.FAILED
    return [
        Work(
            what="the power of the plan",
            state=FAILED if failed else WAITS,
            reason=POWER_FAILED if failed else "",
            where=reverse("plan:design", args=[study.pk]),
            again=reverse("plan:power", args=[study.pk]) if failed else "",
        )
    ]
