"""Verbs on conducted ladders: keep one, let it stand in for the datasheet, take that back."""

from __future__ import annotations

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.ladder_log import ladder_steps
from inchmark.shelf.adapters.conducted import measured_with
from inchmark.shelf.figures.conducted import STORED, ladder_result, result_of
from inchmark.shelf.models import ConductedCheck, Rig
from inchmark.shelf.services.levels import COLUMNS, take_level
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
        rigs = {check.rig.letter, check.rig.log_name} - {""}
        steps = ladder_steps([log], rigs=rigs, frames_per_step=frames_per_step)
        check.steps = [*check.steps, *steps]
        check.log_name, check.log = name[-200:], log
    check.measured_with = measured_with(check.rig)
    check.full_clean()
    try:
        check.reading = STORED.dump(ladder_result(check))
    except ValueError as wrong:
        raise ValidationError({"steps": f"{wrong}."}) from wrong
    check.save()
    return check


@transaction.atomic
def use_ladder(check: ConductedCheck) -> list[Rig]:
    """Let the measured level stand in for the datasheet in every rig of that module and setting."""
    found = result_of(check)
    if found.half_lost is None or not found.edge_reached:
        raise ValidationError("This ladder has not found the level at which half are lost yet.")
    rigs = [rig for rig in check.study.rigs.all() if measured_with(rig) == check.measured_with]
    if not rigs:
        raise ValidationError(
            f"No rig has {check.measured_with} any more, so there is nothing it could serve."
        )
    for rig in rigs:
        take_level(rig, check)
        rig.save(update_fields=COLUMNS)
    touch(check.study)
    return rigs


@transaction.atomic
def leave_ladder(check: ConductedCheck) -> None:
    """Go back to the datasheet, or to noise figure and required S/N, in every rig it serves."""
    rigs = list(check.rigs_in_use.all())
    for rig in rigs:
        take_level(rig, None)
        rig.save(update_fields=COLUMNS)
    if rigs:
        touch(check.study)
