"""Typed values kept as JSON: written with the version of their shape, and never guessed at."""

from __future__ import annotations

import math
from typing import Any, Generic, TypeVar

from pydantic import TypeAdapter, ValidationError

T = TypeVar("T")


class Stored(Generic[T]):
    """How a frozen dataclass is kept: one adapter, one version of its shape."""

    def __init__(self, kind: type[T], *, version: int) -> None:
        self.version = version
        self._adapter: TypeAdapter[T] = TypeAdapter(kind)

    def dump(self, value: T) -> dict[str, Any]:
        """Return a value as JSON data with its version."""
        plain = self._adapter.dump_python(value, mode="json")
        return {"schema": self.version, "value": _spelled(plain)}

    def load(self, data: Any) -> T | None:
        """Return the value; None where it was written in another shape or by something else."""
        if not isinstance(data, dict) or data.get("schema") != self.version:
            return None
        try:
            return self._adapter.validate_python(data.get("value"))
        except ValidationError:
            return None


def _spelled(data: Any) -> Any:
    """Return JSON data with infinite figures as words, since JSON has no number for them."""
    if isinstance(data, float) and not math.isfinite(data):
        return str(data)
    if isinstance(data, dict):
        return {key: _spelled(value) for key, value in data.items()}
    if isinstance(data, list):
        return [_spelled(value) for value in data]
    return data
