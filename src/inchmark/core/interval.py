"""A pair of limits, and an estimate that never travels without them."""

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


@dataclass(frozen=True, slots=True)
class Estimate:
    """A median or mean with its 95 % limits, in the unit of the quantity."""

    estimate: float
    low: float
    high: float
