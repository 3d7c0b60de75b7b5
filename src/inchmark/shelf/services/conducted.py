"""Verbs on conducted ladders: keep one, let it stand in for the datasheet, take that back."""

from __future__ import annotations

from dataclasses import asdict

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.ladder_log import ladder_steps
from inchmark.shelf.models import ConductedCheck, Rig
from inchmark.shelf.records.conducted import reading_of
from inchmark.studies.models import Study
from inchmark.studies.services import touch

LOG_LIMIT_BYTES = 16 * 1024 * 1024


@transaction.atomic
def keep_ladder(
    study: Study,
    check: ConductedCheck,
    *,
    name: str = "",
    log: bytes | None = None,
    frames_per_step: int | None = None,
) -> ConductedCheck:
    """Check a ladder and keep it; one that cannot be weighed is refused with its reason.

    The steps of a frame log are added to those typed, and the log is kept as it came.

    Raises
    ------
    UnreadableFileError
        The log cannot be read.
    ValidationError
        The steps cannot be weighed.
    """
    check.study = study
    if log is not None:
        if len(log) > LOG_LIMIT_BYTES:
            raise UnreadableFileError("The log is over 16 MB, which is no ladder of one rig.")
        steps = ladder_steps([log], rig=check.rig.letter, frames_per_step=frames_per_step)
        check.steps = [*check.steps, *steps]
        check.log_name, check.log = name[-200:], log
    check.full_clean()
    try:
        check.reading = asdict(reading_of(check))
    except ValueError as wrong:
        raise ValidationError({"steps": f"{wrong}."}) from wrong
    check.save()
    return check


@transaction.atomic
def use_ladder(check: ConductedCheck) -> Rig:
    """Let the measured level stand in for the datasheet in budgets and readings of the rig."""
    found = check.reading
    if found["half_lost"] is None or not found["edge_reached"]:
        raise ValidationError("This ladder has not found the level at which half are lost yet.")
    rig = check.rig
    rig.conducted_dbm = found["half_lost"]["estimate"]
    rig.conducted_source = f"half lost, conducted {check.checked_on:%-d %b %Y}"
    rig.save(update_fields=["conducted_dbm", "conducted_source"])
    touch(check.study)
    return rig


@transaction.atomic
def use_datasheet(rig: Rig) -> Rig:
    """Go back to the datasheet, or to noise figure and required S/N."""
    rig.conducted_dbm, rig.conducted_source = None, ""
    rig.save(update_fields=["conducted_dbm", "conducted_source"])
    touch(rig.study)
    return rig
