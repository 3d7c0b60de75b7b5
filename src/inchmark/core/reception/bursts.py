"""How much losses that come in runs are worth: the burst-aware loss interval.

Losses that come in runs carry less than as many independent ones. The integrated autocorrelation
time tau of the 0/1 loss sequence says how much less: n frames count as n / tau.

References
----------
Geyer 1992 (initial positive monotone sequence); Wilson 1927; both from memory.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtrit

from inchmark.core.checks import Floats
from inchmark.core.interval import Interval
from inchmark.core.reception.proportion import score_interval

PRIOR_TAU = 2.0  # shrunk toward two frames, with the weight of one run of losses
MAX_LAG = 512  # beyond this no visit's losses are still the same run; bounds work and storage
_MEAN_PUT_BACK_ROUNDS = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class LossRuns:
    """What one visit tells about runs: its length, its runs of losses, sums of products by lag."""

    length: int
    runs: int
    products: Floats  # sum over frames of centred loss times centred loss `lag` later


def loss_runs(loss: Floats) -> LossRuns:
    """Return the runs of one 0/1 loss sequence (1 = lost), shape (frames,), at least one frame."""
    sequence = np.asarray(loss, dtype=np.float64)
    reach = min(len(sequence), MAX_LAG)
    products = products_by_lag(sequence - sequence.mean(), reach)
    runs = int(sequence[0]) + int(np.sum(np.diff(sequence) > 0))
    return LossRuns(length=len(sequence), runs=runs, products=products)


def products_by_lag(centred: Floats, reach: int) -> Floats:
    """Return sums of products of a sequence with itself so many steps later, by lag."""
    size = 1 << int(2 * len(centred) - 1).bit_length()
    spectrum = np.fft.rfft(centred, size)
    products: Floats = np.fft.irfft(spectrum * np.conj(spectrum), size)[:reach]
    return products


def autocorrelation_time(visits: Sequence[LossRuns]) -> float:
    """Return tau [frames], at least 1: how many frames are worth one independent frame.

    Autocovariances are pooled over the visits; the removed visit mean is put back
    (E c_k = g_k - g_0 tau / n); the result is shrunk on the log scale toward 2 with the weight
    of one run of losses.
    """
    visits = [one for one in visits if one.length]  # counts written by hand know no order
    median = float(np.median([one.length for one in visits])) if visits else 1.0
    lags = int(min(max(median, 1), MAX_LAG))
    pairs = [one.length - np.arange(len(one.products)) for one in visits]
    observed = pooled_covariance([one.products for one in visits], pairs, lags)
    runs = sum(one.runs for one in visits)
    if runs == 0 or observed[0] <= 0:
        return PRIOR_TAU
    tau = time_of(observed, median, longest=median, least_share=0.1, rounds=_MEAN_PUT_BACK_ROUNDS)
    return toward_prior(tau, runs / (runs + 1))


def pooled_covariance(
    products: Sequence[Floats], pairs: Sequence[NDArray[Any]], lags: int
) -> Floats:
    """Return the mean product by lag over visits, from sums of products and counts of pairs."""
    sums, counts = np.zeros(lags), np.zeros(lags)
    for one, many in zip(products, pairs, strict=True):
        reach = min(lags, len(one))
        sums[:reach] += one[:reach]
        counts[:reach] += many[:reach]
    pooled: Floats = sums / np.maximum(counts, 1)
    return pooled


def time_of(
    observed: Floats, median: float, *, longest: float, least_share: float, rounds: int
) -> float:
    """Return tau from pooled covariances, the removed means of visits put back round by round."""
    tau = 1.0
    for _ in range(rounds):
        variance = observed[0] / max(1 - tau / median, least_share)
        tau = _initial_monotone_sum((observed + variance * tau / median) / variance)
        tau = min(max(tau, 1.0), longest)
    return tau


def toward_prior(tau: float, weight: float) -> float:
    """Return tau shrunk on the log scale toward two frames."""
    return float(np.exp(weight * np.log(tau) + (1 - weight) * np.log(PRIOR_TAU)))


def _initial_monotone_sum(correlation: Floats) -> float:
    """Return 1 + 2 sum of correlations over Geyer's initial positive monotone sequence."""
    even = len(correlation) // 2 * 2
    if even < 2:
        return 1.0
    paired = correlation[:even:2] + correlation[1:even:2]
    negative = np.flatnonzero(paired <= 0)
    kept = paired[: negative[0]] if len(negative) else paired
    if not len(kept):
        return 1.0
    return float(2 * np.sum(np.minimum.accumulate(kept)) - 1)


def loss_interval(
    lost: float, sent: float, *, tau: float = 1.0, confidence: float = 0.95
) -> Interval:
    """Return the limits of the loss [share] of one visit whose frames are worth 1 / tau each.

    Wilson's interval at n / tau frames, with Student's quantile (n / tau - 1 degrees of freedom,
    at least 2) in place of the normal one.
    """
    effective = max(sent / max(tau, 1.0), 1.0)
    freedom = max(effective - 1, 2.0)
    quantile = float(stdtrit(freedom, 0.5 + confidence / 2))
    return score_interval(lost / sent * effective, effective, quantile)


def visit_tau(visit: LossRuns, lost: int, pooled: float) -> float:
    """Return the larger of the pooled tau and the visit's own; all or none lost: the pooled."""
    if lost in (0, visit.length):
        return pooled
    return max(pooled, autocorrelation_time([visit]))
