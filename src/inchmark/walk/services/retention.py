"""Letting the lines of old logs go, where a study says so: frames and figures stay."""

from __future__ import annotations

from datetime import datetime, timedelta

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from inchmark.studies.models import Study
from inchmark.walk.models import BadLine, FileChunk, FrameFile, LineCorrection


def due(study: Study, now: datetime) -> QuerySet[FrameFile]:
    """Return the logs whose lines a study no longer keeps: read, and read so many days ago."""
    if study.keep_logs_days is None:
        return FrameFile.objects.none()
    before = now - timedelta(days=study.keep_logs_days)
    return FrameFile.objects.filter(
        walk__study=study, state=FrameFile.READ, read_at__lt=before, let_go_at=None
    )


def let_old_go(now: datetime | None = None) -> int:
    """Let the lines of every log go that is due; return how many logs."""
    moment, gone = now or timezone.now(), 0
    for study in Study.objects.exclude(keep_logs_days=None):
        for file in due(study, moment):
            gone += _let_go(file.pk, moment)
    return gone


@transaction.atomic
def _let_go(file_id: int, now: datetime) -> bool:
    """Delete a log's lines unless somebody has begun to read it again."""
    FrameFile.objects.alone_with(file_id)
    held = FrameFile.objects.filter(pk=file_id, state=FrameFile.READ, let_go_at=None)
    if not held.update(let_go_at=now):
        return False
    for rows in (FileChunk, BadLine, LineCorrection):
        rows.objects.filter(file=file_id).delete()
    return True


def refuse_without_lines(file: FrameFile) -> None:
    """Refuse what would need the lines of a log, or lose for good what it gave.

    Raises
    ------
    ValidationError
        They were let go.
    """
    if file.let_go_at:
        raise ValidationError(without_lines(file))


def without_lines(file: FrameFile) -> str:
    """Return the sentence about a log whose lines were let go."""
    return (
        f"The lines of {file.name} were let go on {file.let_go_at:%-d %B %Y}, as the study says. "
        "What was read from them stays as it is; to read it otherwise, bring the log again."
    )
