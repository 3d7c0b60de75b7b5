"""Verbs on budgets: give an item its own value, take it back, keep what-ifs as a new rig."""

from __future__ import annotations

from collections.abc import Mapping

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.shelf.models import BudgetItem, Rig
from inchmark.shelf.services.rigs import copy_rig
from inchmark.studies.services import touch

KEPT_WHAT_IF = "what if, kept; not measured"
PATH = "path"


@transaction.atomic
def set_item(rig: Rig, key: str, db: float, source: str) -> BudgetItem:
    """Give an item of a rig's budget its own value (a loss is positive); one it had is replaced."""
    rig.budget_items.filter(key=key).delete()
    item = BudgetItem(rig=rig, key=key, db=db, source=source)
    item.full_clean()
    item.save()
    touch(rig.study)
    return item


@transaction.atomic
def drop_item(item: BudgetItem) -> None:
    """Go back to what the parts say."""
    item.delete()
    touch(item.rig.study)


@transaction.atomic
def keep_as_rig(rig: Rig, changes: Mapping[str, float]) -> Rig:
    """Return a copy of a rig with the what-ifs as its own items; the path is no rig's.

    Raises
    ------
    ValidationError
        Nothing of the rig was changed.
    """
    of_rig = {key: db for key, db in changes.items() if key != PATH}
    if not of_rig:
        raise ValidationError("Change an item of the rig first; the path belongs to the place.")
    copy = copy_rig(rig)
    for item in rig.budget_items.exclude(key__in=of_rig):
        set_item(copy, item.key, item.db, item.source)
    for key, db in of_rig.items():
        set_item(copy, key, db, KEPT_WHAT_IF)
    return copy
