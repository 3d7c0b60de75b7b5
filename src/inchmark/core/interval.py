"""A pair of limits, and an estimate that never travels without them."""

import math
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Interval:
    """Lower and upper limit, both in the unit of the quantity."""

    low: float
    high: float

    def __post_init__(self) -> None:
        """Refuse limits in the wrong order."""
        if self.low > self.high:
            raise ValueError(f"low={self.low!r} must not be greater than high={self.high!r}")

    def contains(self, value: float) -> bool:
        """Tell whether the value lies inside, limits included."""
        return self.low <= value <= self.high


@dataclass(frozen=True, slots=True)
class Estimate:
    """A median or mean with its 95 % limits, in the unit of the quantity."""

    estimate: float
    low: float
    high: float

    def as_dict(self) -> dict[str, float | None]:
        """Return the three figures, None where a figure is not finite."""
        return {name: _finite(getattr(self, name)) for name in ("estimate", "low", "high")}


NO_ESTIMATE: dict[str, float | None] = {"estimate": None, "low": None, "high": None}


def _finite(value: float) -> float | None:
    return float(value) if math.isfinite(value) else None
