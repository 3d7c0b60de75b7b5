"""Frames lost because others are on the air: any overlap kills both (no capture), pure ALOHA.

Abramson 1970 for the endless population. Real receivers often keep the stronger frame, so these are
the losses of the unlucky ones.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from inchmark.core.checks import positive


@dataclass(frozen=True, slots=True, kw_only=True)
class Traffic:
    """So many senders, each with a frame of an airtime [s] once in a period [s]."""

    senders: int
    airtime_s: float
    period_s: float

    def __post_init__(self) -> None:
        """Refuse traffic that cannot be."""
        positive("airtime_s", self.airtime_s)
        positive("period_s", self.period_s)
        if self.senders < 1:
            raise ValueError(f"senders={self.senders!r} must be at least 1")

    @property
    def offered_load(self) -> float:
        """Return the frames on the air at a moment, were none lost: n T/P."""
        return self.senders * self.airtime_s / self.period_s

    def success_at_random_phases(self) -> float:
        """Return the share of frames nobody overlaps, each sender keeping its period and its phase.

        The mean over phases: a pair that meets once meets again and again until one drifts away.
        """
        met = 2 * self.airtime_s / self.period_s
        return float(max(1 - met, 0.0) ** (self.senders - 1))

    def success_at_random_times(self) -> float:
        """Return the share of frames nobody overlaps, the others starting at random moments."""
        return math.exp(-2 * (self.senders - 1) * self.airtime_s / self.period_s)

    def success_of_many(self) -> float:
        """Return the textbook's share for an endless population at the same load: exp(-2 G)."""
        return math.exp(-2 * self.offered_load)

    def most_senders(self, lost: float) -> int:
        """Return how many may send before a share of frames is lost to one another, at random times."""
        if not 0 < lost < 1:
            raise ValueError(f"lost={lost!r} must be between 0 and 1")
        return 1 + int(-math.log1p(-lost) * self.period_s / (2 * self.airtime_s))

    def throughput(self, success: float) -> float:
        """Return the frames that arrive in an airtime, where a share succeeds."""
        return self.offered_load * success
