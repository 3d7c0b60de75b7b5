"""Verbs on studies; `touch` tells the rooms that something a reading rests on has changed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db import transaction
from django.db.models import F

from inchmark.studies.models import Membership, NoteDecision, Study

_listeners: list[Callable[[int], None]] = []


def on_change(listener: Callable[[int], None]) -> None:
    """Register what is to be called with a study's number in the transaction that changes it."""
    if listener not in _listeners:
        _listeners.append(listener)


@transaction.atomic
def touch(study: Study) -> None:
    """Raise the study's revision and tell the listeners, all of it kept together or not at all."""
    Study.objects.filter(pk=study.pk).update(revision=F("revision") + 1)
    for listener in _listeners:
        listener(study.pk)


@transaction.atomic
def start_study(*, by: Any, **fields: Any) -> Study:
    """Return a new study owned by its maker."""
    study = Study(**fields)
    study.full_clean()
    study.save()
    Membership.objects.create(study=study, user=by, role=Membership.OWNER)
    return study


@transaction.atomic
def change_study(study: Study, **fields: Any) -> Study:
    """Change question, needed distance or rules."""
    for name, value in fields.items():
        setattr(study, name, value)
    study.full_clean()
    study.save(update_fields=list(fields))
    touch(study)
    return study


@transaction.atomic
def decide_note(
    study: Study, *, code: str, subject: str, state: str, reason: str, by: Any
) -> NoteDecision:
    """Record what a member did with a side note."""
    row = NoteDecision(study=study, code=code, subject=subject, state=state, reason=reason, by=by)
    row.full_clean()
    row.save()
    return row
