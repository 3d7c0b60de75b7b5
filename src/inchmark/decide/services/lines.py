"""A study in one line: how far it has come, what it says, and what it waits for."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import QuerySet
from django.urls import reverse

from inchmark.core.reading.answer import answer_of
from inchmark.core.wording import plural
from inchmark.decide.services.decisions import contradiction, standing
from inchmark.read.adapters import KeptReading
from inchmark.read.services import current_reading
from inchmark.studies.models import Study
from inchmark.studies.tape.layout import Tape, tape_of
from inchmark.walk.models import FrameFile

BEGUN, PLANNED, WALKING, TO_BE_READ, READ, DECIDED = (
    "begun", "planned", "walking", "to be read", "read", "decided",
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """State, answer, what it waits for with the page where that is done, and its tape."""

    state: str
    answer: str
    waits: str
    url: str
    tape: Tape
    needed: str


def line_of(study: Study) -> Line:
    """Return the line of a study."""
    kept = current_reading(study)
    told = answer_of(kept.reading) if kept and kept.reading.rigs else None
    state, waits, page = _state(study, kept)
    return Line(
        state=state, answer=told.sentence if told else "", needed=told.needed if told else "",
        waits=waits, url=page, tape=tape_of(study),
    )  # fmt: skip


def _state(study: Study, kept: KeptReading | None) -> tuple[str, str, str]:
    """Return state, what it waits for, and the page for that."""
    asking = _files(study).filter(state=FrameFile.ASKING).first()
    if asking is not None:
        page = reverse("walk:recipe", args=[study.pk, asking.pk])
        return TO_BE_READ, f"{asking.name}: say how it is read", page
    if standing(study) is not None:
        page = reverse("decide:decision", args=[study.pk])
        against = contradiction(study)
        return DECIDED, "a look: later data contradict it" if against else "", page
    if kept is not None and kept.reading.rigs:
        if kept.stale(study):
            return TO_BE_READ, "being read anew", reverse("read:reading", args=[study.pk])
        return READ, "a decision", reverse("decide:decision", args=[study.pk])
    return _before_reading(study)


def _files(study: Study) -> QuerySet[FrameFile]:
    return FrameFile.objects.filter(walk__study=study)


def _before_reading(study: Study) -> tuple[str, str, str]:
    walk = study.walks.order_by("number").last()
    if walk is not None:
        if _files(study).exists():
            return TO_BE_READ, "its reading", reverse("read:reading", args=[study.pk])
        return WALKING, "its logs", walk.get_absolute_url()
    rigs, stops = study.rigs.count(), study.stops.count()
    if not rigs:
        return BEGUN, "a rig on the shelf", reverse("shelf:rigs", args=[study.pk])
    if not stops:
        told = plural(rigs, "rig")
        return BEGUN, f"stops to walk to; {told} ready", reverse("plan:stops", args=[study.pk])
    told = f"{plural(rigs, 'rig')}, {plural(stops, 'stop')}"
    return PLANNED, f"the walk; {told} planned", reverse("walk:walks", args=[study.pk])
