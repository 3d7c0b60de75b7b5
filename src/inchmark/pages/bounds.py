"""Bounds of a column, said once: the database's constraint with its sentence for the user."""

from __future__ import annotations

from django.db import models


def bounded(
    table: str, field: str, low: float, high: float, unit: str = ""
) -> models.CheckConstraint:
    """Return a constraint low <= field <= high.

    Both sides, since NaN is above every number in PostgreSQL.
    """
    name = field.replace("_", " ")
    spoken = f"{low:,g} to {high:,g}{' ' + unit if unit else ''}"
    return models.CheckConstraint(
        name=f"{table}_{field}_bounds",
        condition=models.Q(**{f"{field}__gte": low, f"{field}__lte": high}),
        violation_error_message=f"The {name} must be from {spoken}.",
    )
