"""Intervals for a proportion, k of n.

References
----------
Wilson 1927 (score interval, no continuity correction); Clopper and Pearson 1934; Jeffreys'
Beta prior.
"""

from __future__ import annotations

import math

from scipy.special import betaincinv, ndtri

from inchmark.core.checks import fraction, positive
from inchmark.core.interval import Interval


def wilson(successes: float, trials: float, *, confidence: float = 0.95) -> Interval:
    """Return Wilson's two-sided interval for successes of trials (0 <= k <= n, n > 0)."""
    z = float(ndtri(0.5 + fraction("confidence", confidence) / 2))
    return score_interval(successes, trials, z)


def score_interval(successes: float, trials: float, quantile: float) -> Interval:
    """Return the score interval with a given standard-normal or Student quantile."""
    _check_counts(successes, trials)
    share = successes / trials
    shrink = quantile**2 / trials
    centre = (share + shrink / 2) / (1 + shrink)
    spread = math.sqrt(share * (1 - share) / trials + shrink / (4 * trials))
    half = quantile * spread / (1 + shrink)
    low = 0.0 if successes == 0 else max(centre - half, 0.0)
    high = 1.0 if successes == trials else min(centre + half, 1.0)
    return Interval(low, high)


def clopper_pearson(successes: int, trials: int, *, confidence: float = 0.95) -> Interval:
    """Return the exact two-sided interval, closed to 0 at k = 0 and to 1 at k = n."""
    _check_counts(successes, trials)
    tail = (1 - fraction("confidence", confidence)) / 2
    k, n = successes, trials
    low = 0.0 if k == 0 else float(betaincinv(k, n - k + 1, tail))
    high = 1.0 if k == n else float(betaincinv(k + 1, n - k, 1 - tail))
    return Interval(low, high)


def jeffreys(successes: int, trials: int, *, confidence: float = 0.95) -> Interval:
    """Return the equal-tailed Beta(k + 1/2, n - k + 1/2) interval, ends not closed."""
    _check_counts(successes, trials)
    tail = (1 - fraction("confidence", confidence)) / 2
    a, b = successes + 0.5, trials - successes + 0.5
    return Interval(float(betaincinv(a, b, tail)), float(betaincinv(a, b, 1 - tail)))


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


def expected_half_width(
    error_rate: float, trials: int, *, confidence: float = 0.95, method: str = "wilson"
) -> float:
    """Return half the interval's width when the observed rate equals the true one."""
    rate = fraction("error_rate", error_rate)
    if method == "wilson":
        limits = wilson(rate * trials, trials, confidence=confidence)
        return (limits.high - limits.low) / 2
    if method == "wald":
        z = float(ndtri(0.5 + fraction("confidence", confidence) / 2))
        return z * math.sqrt(rate * (1 - rate) / trials)
    raise ValueError(f"method={method!r} must be 'wilson' or 'wald'")


def _check_counts(successes: float, trials: float) -> None:
    if not (trials > 0 and 0 <= successes <= trials):
        raise ValueError(f"successes={successes!r} must be from 0 to trials={trials!r}, above 0")
