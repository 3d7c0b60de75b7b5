"""Counts written down in the field, typed in afterwards."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.plan.models import Stop
from inchmark.studies.services import touch
from inchmark.walk.figures import CountRow
from inchmark.walk.models import HandCount, Visit, Walk
from inchmark.walk.services.summaries import summarise

Typed = dict[str, Any]  # sent, heard, rssi_dbm, note


@transaction.atomic
def keep_counts(
    walk: Walk, stop: Stop, typed: Sequence[tuple[CountRow, Typed]], *, condition: str, by: Any
) -> int:
    """Keep the counts of a stop that are new or changed; return how many.

    An emptied row takes its count back; the row that said otherwise stays in the logbook.

    Raises
    ------
    ValidationError
        A rig has frames of a log at the stop, or the counts break a rule.
    """
    changed = [(row, found) for row, found in typed if _changes(row, found)]
    for row, found in changed:
        if row.logged:
            raise ValidationError(
                f"Rig {row.rig.letter} has frames of a log at stop {stop.label}; counts beside them would count twice."
            )
        count = HandCount(
            walk=walk,
            rig=row.rig,
            stop=stop,
            condition=condition,
            pass_number=row.pass_number,
            sent=found["sent"] or 0,
            heard=found["heard"] or 0,
            rssi_dbm=found["rssi_dbm"],
            note=found["note"],
            by=by,
        )
        count.full_clean()
        count.save()
    for rig in {row.rig for row, _ in changed}:
        visit, _ = Visit.objects.get_or_create(
            walk=walk, rig=rig, stop=stop, condition=condition, direction="", receiver=""
        )
        summarise([visit])
    if changed:
        touch(walk.study)
    return len(changed)


def _changes(row: CountRow, found: Typed) -> bool:
    before = row.count
    if found["sent"] is None:
        return before is not None and before.sent > 0
    now = found["sent"], found["heard"], found["rssi_dbm"], found["note"]
    return before is None or now != (before.sent, before.heard, before.rssi_dbm, before.note)
