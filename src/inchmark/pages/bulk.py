"""Checking many rows as `full_clean` does, without asking the database about each."""

from __future__ import annotations

from django.core.exceptions import NON_FIELD_ERRORS, ValidationError
from django.db import models

from inchmark.pages.bounds import Bounds


def check_row(row: models.Model) -> None:
    """Raise ValidationError where a field or a bound of a row is broken.

    What only the database can tell, like that a label is taken, is the caller's to check.
    """
    row.clean_fields(exclude=["study"])
    row.clean()
    problems: list[ValidationError] = []
    for constraint in row._meta.constraints:
        if isinstance(constraint, Bounds):
            try:
                constraint.validate(type(row), row)
            except ValidationError as wrong:
                problems.append(wrong)
    if problems:
        raise ValidationError({NON_FIELD_ERRORS: problems})
