"""The same transmissions at two receivers: what only one of them heard tells them apart.

References
----------
McNemar 1947 (only differing pairs tell); exact p: binomial(b + c, 1/2), twice the smaller tail, at
most 1; interval of the difference: Newcombe 1998, method 10 (Wilson limits, phi corrected).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from scipy.special import bdtr

from inchmark.core.interval import Interval
from inchmark.core.reception.proportion import wilson


@dataclass(frozen=True, slots=True, kw_only=True)
class PairedCounts:
    """Transmissions heard by both, by the first only, by the second only, by neither."""

    both: int
    first: int
    second: int
    neither: int

    def __post_init__(self) -> None:
        """Refuse counts below zero, and none at all."""
        if min(self.both, self.first, self.second, self.neither) < 0 or not self.sent:
            raise ValueError("paired counts are 0 or more, and there must be some")

    @property
    def sent(self) -> int:
        """Return the transmissions."""
        return self.both + self.first + self.second + self.neither

    @property
    def difference(self) -> float:
        """Return the share heard by the first less that heard by the second."""
        return (self.first - self.second) / self.sent

    def exact_p(self) -> float:
        """Return the chance of so uneven a split if both heard equally well."""
        differing = self.first + self.second
        if not differing:
            return 1.0
        return float(min(1.0, 2 * bdtr(min(self.first, self.second), differing, 0.5)))

    def mid_p(self) -> float:
        """Return the exact chance with half the probability of the observed split taken off."""
        differing, fewer = self.first + self.second, min(self.first, self.second)
        if not differing:
            return 1.0
        here = math.comb(differing, fewer) * 0.5**differing
        tail = float(bdtr(fewer, differing, 0.5)) - here / 2
        return min(1.0, 2 * tail)

    def interval(self) -> Interval:
        """Return 95 % limits of the difference (Newcombe's method 10)."""
        n = self.sent
        first, second = self.both + self.first, self.both + self.second
        p1, p2 = first / n, second / n
        one, two = wilson(first, n), wilson(second, n)
        phi = self._phi()
        down, up = p1 - one.low, one.high - p1
        down2, up2 = p2 - two.low, two.high - p2
        low = self.difference - math.sqrt(max(down**2 - 2 * phi * down * up2 + up2**2, 0.0))
        high = self.difference + math.sqrt(max(up**2 - 2 * phi * up * down2 + down2**2, 0.0))
        return Interval(max(low, -1.0), min(high, 1.0))

    def _phi(self) -> float:
        """Return the correlation of the pairs, drawn in by half a pair where it is positive."""
        a, b, c, d = self.both, self.first, self.second, self.neither
        marginal = (a + b) * (c + d) * (a + c) * (b + d)
        if not marginal:
            return 0.0
        cross = float(a * d - b * c)
        if cross > 0:
            cross = max(cross - self.sent / 2, 0.0)
        return cross / math.sqrt(marginal)
