"""Verbs on bench checks: centring, close range, current traces."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.core.bench.close_range import ANSWERS, TREE
from inchmark.formats.current_trace import read_current
from inchmark.shelf.adapters import traces
from inchmark.shelf.adapters.bench import core_edges, core_steps
from inchmark.shelf.drawings import traces as outlines
from inchmark.shelf.figures.centring import MIDDLE, STOP, TODO
from inchmark.shelf.models import Centring, CloseRange, ConductedCheck, CurrentTrace
from inchmark.shelf.services.conducted import leave_ladder
from inchmark.studies.models import Removed, Study
from inchmark.studies.services.undo import take_away

LONGEST_KEY = 70
TRACE_LIMIT_BYTES = 24 * 1024 * 1024


@transaction.atomic
def keep_centring(study: Study, check: Centring) -> Centring:
    """Check a centring and keep it, also while an edge is still to be found."""
    check.study = study
    try:
        core_steps(check)
    except ValueError as wrong:
        raise ValidationError({"steps": f"{wrong}."}) from wrong
    try:
        core_edges(check)
    except ValueError as wrong:
        raise ValidationError(f"{str(wrong)[0].upper()}{str(wrong)[1:]}.") from wrong
    check.full_clean()
    check.save()
    return check


@transaction.atomic
def follow_centring(
    check: Centring, key: str, *, by: str, on: date, sent: int | None, heard: int | None
) -> Centring:
    """Keep that something was done after a centring; done again it stands anew.

    Raises
    ------
    ValidationError
        It is none of the things to do, or the frames counted at the middle are none.
    """
    if key not in TODO and not (key.startswith(STOP) and len(key) < LONGEST_KEY):
        raise ValidationError("That is none of the things to do after a centring.")
    if key == MIDDLE and (not sent or heard is None or heard > sent):
        raise ValidationError("At the middle count frames: how many were sent, how many heard.")
    done: dict[str, object] = {"on": on.isoformat(), "by": by}
    if sent:
        done |= {"sent": sent, "heard": heard or 0}
    check.done = {**check.done, key: done}
    check.save(update_fields=["done"])
    return check


@transaction.atomic
def keep_close_range(study: Study, check: CloseRange) -> CloseRange:
    """Keep a close-range check."""
    check.study = study
    check.full_clean()
    check.save()
    return check


@transaction.atomic
def answer_question(
    check: CloseRange,
    question: str,
    answer: str,
    *,
    swapped: str = "",
    gave_dbm: float | None = None,
) -> CloseRange:
    """Keep what a swap did; an answer given again replaces the old one and those after it."""
    keys = [one.key for one in TREE]
    if question not in keys or answer not in ANSWERS:
        raise ValidationError("That is no question of the fault tree, or no answer to it.")
    before = keys[: keys.index(question)]
    what = {"answer": answer, "swapped": swapped, "gave_dbm": gave_dbm}
    check.answers = {k: v for k, v in check.answers.items() if k in before} | {question: what}
    check.save(update_fields=["answers"])
    return check


@transaction.atomic
def keep_finding(check: CloseRange, words: str) -> CloseRange:
    """Keep what a close-range check ended in, on the check and on the unit it was made with.

    Raises
    ------
    ValidationError
        There is no verdict yet, or the check names no unit of the study.
    """
    if not words:
        raise ValidationError("The swaps point to nothing yet. Go on with them first.")
    unit = check.study.units.filter(serial=check.unit).first() if check.unit else None
    if unit is None:
        raise ValidationError(
            f"The study has no unit “{check.unit}”. Put it on the shelf under Units, so that the finding stays with it."
        )
    check.finding = words[:200]
    check.save(update_fields=["finding"])
    said = f"close range {check.checked_on:%-d %b %Y}: {words}"
    if said not in unit.note:
        unit.note = f"{said} {unit.note}".strip()[:300]
        unit.save(update_fields=["note"])
    return check


@transaction.atomic
def keep_trace(study: Study, trace: CurrentTrace, *, name: str, data: bytes) -> CurrentTrace:
    """Read a current trace, take it apart and keep it with its file.

    Raises
    ------
    UnreadableFileError
        The file is no trace.
    ValidationError
        A figure is out of range, or the trace says nothing: times that do not ascend, negative
        currents, one level.
    """
    if len(data) > TRACE_LIMIT_BYTES:
        raise ValidationError("The file is over 24 MB. Export fewer samples.")
    found = read_current(data, shunt_ohm=trace.shunt_ohm)
    trace.study, trace.name, trace.data = study, name[-200:] or "trace.csv", data
    trace.module = trace.rig.module_part
    try:
        reading = traces.trace_reading(found, traces.corrections_of(trace))
    except ValueError as wrong:
        raise ValidationError(_sentence(wrong)) from wrong
    outline = outlines.trace_outline(found.current_a)
    trace.reading = traces.STORED.dump(reading) | {"outline": outlines.STORED.dump(outline)}
    trace.full_clean()
    trace.save()
    return trace


@transaction.atomic
def correct_trace(
    trace: CurrentTrace, *, edges_a: Sequence[float], names: Sequence[str]
) -> CurrentTrace:
    """Take a trace apart anew with the boundaries and names a person gives its levels; none: as found.

    Raises
    ------
    ValidationError
        They do not go with the trace; says why.
    """
    trace.corrections = {"edges_a": list(edges_a), "names": list(names)} if edges_a else {}
    found = read_current(bytes(trace.data), shunt_ohm=trace.shunt_ohm)
    try:
        reading = traces.trace_reading(found, traces.corrections_of(trace))
    except ValueError as wrong:
        raise ValidationError(_sentence(wrong)) from wrong
    outline = {"outline": trace.reading["outline"]} if "outline" in trace.reading else {}
    trace.reading = traces.STORED.dump(reading) | outline
    trace.save(update_fields=["corrections", "reading"])
    return trace


def _sentence(wrong: ValueError) -> str:
    words = f"{wrong}"
    return f"{words[:1].upper()}{words[1:]}."


@transaction.atomic
def remove_check(check: Any) -> Removed:
    """Take a bench check off the shelf; a ladder in use gives way to the datasheet again."""
    if isinstance(check, ConductedCheck):
        leave_ladder(check)
    return take_away(check, str(check._meta.verbose_name).capitalize(), check.study)
