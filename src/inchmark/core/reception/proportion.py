"""Intervals for a proportion, k of n.

References
----------
Wilson 1927 (score interval, no continuity correction); Clopper and Pearson 1934; Jeffreys'
Beta prior.
"""

from __future__ import annotations

import math

from scipy.special import ndtri

from inchmark.core.checks import fraction, positive
from inchmark.core.interval import Interval


def wilson(successes: float, trials: float, *, confidence: float = 0.95) -> Interval:
    """Return Wilson's two-sided interval for successes of trials (0 <= k <= n, n > 0)."""
    z = float(ndtri(0.5 + fraction("confidence", confidence) / 2))
    return score_interval(successes, trials, z)


def score_interval(successes: float, trials: float, quantile: float) -> Interval:
    """Return the score interval with a given standard-normal or Student quantile."""
    check_counts(successes, trials)
    share = successes / trials
    shrink = quantile**2 / trials
    centre = (share + shrink / 2) / (1 + shrink)
    spread = math.sqrt(share * (1 - share) / trials + shrink / (4 * trials))
    half = quantile * spread / (1 + shrink)
    low = 0.0 if successes == 0 else max(centre - half, 0.0)
    high = 1.0 if successes == trials else min(centre + half, 1.0)
    return Interval(low, high)


def zero_loss_frames(error_rate: float, *, confidence: float = 0.95) -> int:
    """Return the fewest frames that, with none lost, show the loss to be below the rate."""
    rate, sure = fraction("error_rate", error_rate), fraction("confidence", confidence)
    return math.ceil(math.log1p(-sure) / math.log1p(-rate))


def frames_for_half_width(error_rate: float, half_width: float, *, confidence: float = 0.95) -> int:
    """Return the frames for a wanted half width of the interval (normal approximation)."""
    rate = fraction("error_rate", error_rate)
    z = float(ndtri(0.5 + fraction("confidence", confidence) / 2))
    positive("half_width", half_width)
    return math.ceil(z**2 * rate * (1 - rate) / half_width**2)


def check_counts(successes: float, trials: float) -> None:
    """Refuse more successes than trials, and no trial."""
    if not (trials > 0 and 0 <= successes <= trials):
        raise ValueError(f"successes={successes!r} must be from 0 to trials={trials!r}, above 0")
