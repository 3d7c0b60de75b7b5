"""Making one record of another: the fields that have the same name in both."""

from __future__ import annotations

from dataclasses import fields
from typing import Any, TypeVar

Record = TypeVar("Record")


def alike(kind: type[Record], source: object, **given: Any) -> Record:
    """Return a dataclass of a kind: fields as given, the others as `source` has them.

    Raises
    ------
    AttributeError
        The source lacks a field that was not given.
    """
    names = [one.name for one in fields(kind) if one.init and one.name not in given]  # type: ignore[arg-type]
    return kind(**{name: getattr(source, name) for name in names}, **given)
