"""Removals that can be taken back: what goes is kept as it was, with all that hangs on it."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

from django.apps import apps
from django.core import serializers
from django.core.exceptions import ValidationError
from django.db import IntegrityError, connection, models, router, transaction
from django.db.models.deletion import Collector
from django.utils import timezone

from inchmark.studies.models import Removed, Study
from inchmark.studies.services import touch

KEPT, KEPT_H = 30, 24  # removals of a study that can be taken back, and for how many hours


@transaction.atomic
def take_away(row: models.Model, words: str, study: Study) -> Removed:
    """Delete a row with what hangs on it, and return how to put it back.

    Raises
    ------
    ProtectedError
        Something stands on it that must not go.
    """
    collector = Collector(using=router.db_for_write(type(row)), origin=row)
    collector.collect([row])
    rows: list[models.Model] = [one for held in collector.data.values() for one in held]
    fast: list[Any] = list(collector.fast_deletes)
    rows += [one for found in fast for one in found]
    updates: dict[Any, Any] = dict(collector.field_updates)
    loosened = [
        [one._meta.label, one.pk, field.attname, getattr(one, field.attname)]
        for (field, _), held in updates.items()
        for group in held
        for one in group
    ]
    data = json.loads(serializers.serialize("json", rows))
    row.delete()
    removed = Removed.objects.create(
        study=study, words=words[:120], data={"rows": data, "loosened": loosened}
    )
    old = study.removed.order_by("-pk")[KEPT:]
    Removed.objects.filter(pk__in=list(old.values_list("pk", flat=True))).delete()
    return removed


def forget_removed() -> int:
    """Forget what was removed a day ago: who removes a track of a walk wants it gone."""
    old = timezone.now() - timedelta(hours=KEPT_H)
    gone, _ = Removed.objects.filter(at__lt=old).delete()
    return gone


@transaction.atomic
def put_back(removed: Removed) -> None:
    """Put back what was removed, as it was.

    Raises
    ------
    ValidationError
        Something else has taken its place since.
    """
    try:
        with transaction.atomic():
            for one in serializers.deserialize("json", json.dumps(removed.data["rows"])):
                _put(one.object)
            for label, pk, column, value in removed.data["loosened"]:
                _model(label).filter(pk=pk).update(**{column: value})
            _check_now()
    except (IntegrityError, ValidationError) as wrong:
        raise ValidationError(
            f"{removed.words} cannot be put back: something else has its name or place now."
        ) from wrong
    study = removed.study
    removed.delete()
    touch(study)


def _put(row: models.Model) -> None:
    manager: Any = type(row)._base_manager
    if manager.filter(pk=row.pk).exists():
        raise ValidationError("taken")
    row.save_base(raw=True, force_insert=True)


def _model(label: str) -> Any:
    return apps.get_model(label)._base_manager


def _check_now() -> None:
    """Let the database say now what it would say at the end: keys that lead nowhere."""
    connection.check_constraints()
