"""Verbs on parts: keep one, archive one, take one off; rigs follow their parts."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import ValidationError
from django.db import models, transaction
from django.db.models import ProtectedError

from inchmark.core.console.template import TemplateError, read_template
from inchmark.core.feed.loss import Cable
from inchmark.core.wording import listed
from inchmark.shelf.adapters.settings import problems_of
from inchmark.shelf.models import Feed, Module, Part, Rig, Setting, Unit
from inchmark.shelf.services.rigs import take_over
from inchmark.studies.models import Removed, Study
from inchmark.studies.services import touch
from inchmark.studies.services.undo import take_away


@transaction.atomic
def save_part(study: Study, part: Any) -> Any:
    """Check a part, a setting or a unit and keep it; the rigs that hold it take it over anew."""
    part.study = study
    _check(part)
    part.full_clean()
    is_new = part.pk is None
    part.save()
    for rig in [] if is_new else rigs_with(part):
        take_over(rig)
        rig.full_clean()
        rig.save()
    touch(study)
    return part


def _check(part: Any) -> None:
    """Refuse what the core cannot compute with."""
    if isinstance(part, Setting):
        found = problems_of(part)
        if found:
            raise ValidationError(found)
    if isinstance(part, Feed) and part.cable_rows:
        try:
            Cable(rows=[(f, loss) for f, loss in part.cable_rows])
        except ValueError as wrong:
            raise ValidationError({"cable_rows": f"The cable's {wrong}."}) from wrong
    if isinstance(part, Module) and part.template:
        try:
            read_template(part.template)
        except TemplateError as wrong:
            raise ValidationError({"template": str(wrong)}) from wrong


def rigs_with(part: models.Model) -> list[Rig]:
    """Return the rigs that hold a part at either end."""
    columns = [
        field.name
        for field in Rig._meta.fields
        if field.related_model is type(part) and field.name != "study"
    ]
    if not columns or part.pk is None:
        return []
    query = models.Q()
    for column in columns:
        query |= models.Q(**{column: part})
    return list(Rig.objects.filter(query).with_parts())


@transaction.atomic
def remove_part(part: Any) -> Removed:
    """Take a part off the shelf; one in use stays, and the error says where it is used."""
    study = part.study
    try:
        with transaction.atomic():
            removed = take_away(part, f"{str(part._meta.verbose_name).capitalize()} {part}", study)
    except ProtectedError as wrong:
        raise ValidationError(
            f"{part} is used by {listed(sorted(set(map(_user, wrong.protected_objects))))}, so it stays. Archive it to take it out of the lists."
        ) from wrong
    touch(study)
    return removed


def _user(row: Any) -> str:
    if isinstance(row, Rig):
        return f"rig {row.letter}"
    if isinstance(row, Unit | Setting | Part):
        return f"{row._meta.verbose_name} {row}"
    return str(row)


@transaction.atomic
def archive_part(part: Any, *, archived: bool) -> None:
    """Take a part out of the lists, or put it back; rigs that hold it keep it."""
    part.archived = archived
    part.save(update_fields=["archived"])


@transaction.atomic
def calibrate_rssi(module: Module, *, true_dbm: float, reads_dbm: float, source: str) -> Module:
    """Keep by how much a module reads above a known level at its connector."""
    module.rssi_offset_db = reads_dbm - true_dbm
    module.rssi_offset_source = source
    save_part(module.study, module)
    return module
