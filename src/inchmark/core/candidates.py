"""Candidates held against one of them: what a difference in dB is worth, and which is ahead."""

from __future__ import annotations

from collections.abc import Sequence

from inchmark.core.checks import positive


def range_factor(gain_db: float, exponent: float) -> float:
    """Return how many times as far a gain reaches [1]: 10^(gain / (10 n)) (log-distance path law)."""
    return float(10 ** (gain_db / (10 * float(positive("exponent", exponent)))))


def power_saved_share(gain_db: float) -> float:
    """Return the share of the radiated power that may be left out at the same reach [1].

    1 - 10^(-gain / 10); below 0 where the gain is a loss and more power is needed.
    """
    return float(1 - 10 ** (-gain_db / 10))


def price_per_db(more: float, gain_db: float) -> float | None:
    """Return what a dB costs, from what is paid more for a gain; None where nothing is gained."""
    return more / gain_db if gain_db > 0 else None


def ahead(values: Sequence[float | None], direction: int, *, within: float = 1e-9) -> list[bool]:
    """Return which values are the best: the highest with a direction of 1, the lowest with -1.

    None of them where all that are known are alike, fewer than two are known, or direction is 0.
    """
    known = [direction * value for value in values if value is not None]
    if direction == 0 or len(known) < 2 or max(known) - min(known) <= within:
        return [False] * len(values)
    best = max(known)
    return [value is not None and direction * value >= best - within for value in values]
