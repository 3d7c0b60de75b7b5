"""Bounds of a column, said once: the database's constraint with its sentence for the user."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

from django.core.exceptions import ValidationError
from django.db import models


class Bounds(models.CheckConstraint):
    """A check constraint low <= field <= high that a form need not ask the database about."""

    def __init__(self, *, field: str, low: float, high: float, **kwargs: Any) -> None:
        self.field, self.low, self.high = field, low, high
        condition = models.Q(**{f"{field}__gte": low, f"{field}__lte": high})
        super().__init__(condition=condition, **kwargs)

    def validate(
        self,
        model: type[models.Model],
        instance: models.Model,
        exclude: Collection[str] | None = None,
        using: str = "default",
    ) -> None:
        """Raise ValidationError where the value is out of bounds; empty is within, NaN is not."""
        value = getattr(instance, self.field)
        if self.field in (exclude or ()) or value is None:
            return
        if not self.low <= value <= self.high:
            raise ValidationError(self.get_violation_error_message())

    def clone(self) -> Bounds:
        """Return a copy."""
        return Bounds(
            field=self.field,
            low=self.low,
            high=self.high,
            name=self.name,
            violation_error_message=self.violation_error_message,
        )

    def deconstruct(self) -> tuple[str, Any, dict[str, Any]]:
        """Return it as a migration writes it: a plain check constraint."""
        kwargs = {"name": self.name, "condition": self.condition}
        kwargs["violation_error_message"] = self.violation_error_message
        return "django.db.models.CheckConstraint", (), kwargs


def bounded(table: str, field: str, low: float, high: float, unit: str = "") -> Bounds:
    """Return a constraint low <= field <= high.

    Both sides, since NaN is above every number in PostgreSQL.
    """
    name = field.replace("_", " ")
    # Django formats the message with %, so a unit of % is written twice
    spoken = f"{_spoken(low)} to {_spoken(high)}{' ' + unit.replace('%', '%%') if unit else ''}"
    return Bounds(
        field=field,
        low=low,
        high=high,
        name=f"{table}_{field}_bounds",
        violation_error_message=f"The {name} must be from {spoken}.",
    )


def _spoken(value: float) -> str:
    return f"{value:,.10g}"
