"""Published formulas that the tables hold and the program itself does not use.

They are the second school beside one that it does use (exact beside approximate, other intervals
of a share), kept where they are checked.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import betaincinv, fresnel, ndtr, ndtri

from inchmark.core.checks import Floats, floats, fraction, positive, within
from inchmark.core.constants import EARTH_RADIUS_M
from inchmark.core.geodesy import Place, geodesic
from inchmark.core.interval import Interval
from inchmark.core.propagation.geometry import MEDIAN_K
from inchmark.core.reception.paired import PairedCounts
from inchmark.core.reception.proportion import check_counts, wilson


def fade_margin_db(share: ArrayLike, sigma_db: ArrayLike) -> Floats:
    """Return the margin [dB] to keep so that a share (0 to 1) of places hold; spread sigma [dB]."""
    inside = within("share", share, np.nextafter(0, 1), np.nextafter(1, 0))
    margin: Floats = positive("sigma_db", sigma_db) * ndtri(inside)
    return margin


def location_probability(margin_db: ArrayLike, sigma_db: ArrayLike) -> Floats:
    """Return the share of places [0 to 1] that hold a margin [dB] at a spread sigma [dB] > 0."""
    share: Floats = ndtr(floats("margin_db", margin_db) / positive("sigma_db", sigma_db))
    return share


def far_ground_loss_db(height1_m: ArrayLike, height2_m: ArrayLike, distance_m: ArrayLike) -> Floats:
    """Return 40 lg d - 20 lg (h1 h2) [dB], what two rays tend to far beyond the break."""
    h1, h2 = positive("height1_m", height1_m), positive("height2_m", height2_m)
    loss: Floats = 40 * np.log10(positive("distance_m", distance_m)) - 20 * np.log10(h1 * h2)
    return loss


def radio_horizon_m(height1_m: ArrayLike, height2_m: ArrayLike, *, k: float = MEDIAN_K) -> Floats:
    """Return the distance [m] at which two heights [m, 0 and up] lose sight on a smooth earth."""
    twice = 2 * positive("k", k) * EARTH_RADIUS_M
    h1 = within("height1_m", height1_m, 0, np.inf)
    h2 = within("height2_m", height2_m, 0, np.inf)
    horizon: Floats = np.sqrt(twice * h1) + np.sqrt(twice * h2)
    return horizon


def exact_knife_edge_loss_db(nu: ArrayLike) -> Floats:
    """Return the loss [dB] by the Fresnel integrals; in the clear it ripples below 0."""
    sine, cosine = fresnel(floats("nu", nu))
    loss: Floats = -20 * np.log10(np.hypot(1 - cosine - sine, cosine - sine) / 2)
    return loss


def nominal_clutter_loss_db(
    antenna_height_m: ArrayLike,
    frequency_hz: ArrayLike,
    *,
    clutter_height_m: float,
    clutter_distance_m: float,
) -> Floats:
    """Return the loss [dB] behind clutter of a nominal height and distance [m].

    ITU-R P.452-16, clause 4.5.
    """
    h = within("antenna_height_m", antenna_height_m, 0, np.inf)
    ghz = positive("frequency_hz", frequency_hz) / 1e9
    near = np.exp(-float(positive("clutter_distance_m", clutter_distance_m)) / 1000)
    height = float(positive("clutter_height_m", clutter_height_m))
    factor = 0.25 + 0.375 * (1 + np.tanh(7.5 * (ghz - 0.5)))
    loss: Floats = 10.25 * factor * near * (1 - np.tanh(6 * (h / height - 0.625))) - 0.33
    return loss


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


def jeffreys(successes: int, trials: int, *, confidence: float = 0.95) -> Interval:
    """Return the equal-tailed Beta(k + 1/2, n - k + 1/2) interval, ends not closed."""
    check_counts(successes, trials)
    tail = (1 - fraction("confidence", confidence)) / 2
    a, b = successes + 0.5, trials - successes + 0.5
    return Interval(float(betaincinv(a, b, tail)), float(betaincinv(a, b, 1 - tail)))


def clopper_pearson(successes: int, trials: int, *, confidence: float = 0.95) -> Interval:
    """Return the exact two-sided interval, closed to 0 at k = 0 and to 1 at k = n."""
    check_counts(successes, trials)
    tail = (1 - fraction("confidence", confidence)) / 2
    k, n = successes, trials
    low = 0.0 if k == 0 else float(betaincinv(k, n - k + 1, tail))
    high = 1.0 if k == n else float(betaincinv(k + 1, n - k, 1 - tail))
    return Interval(low, high)


def slant_distance_m(start: Place, end: Place) -> float:
    """Return ground distance and height difference joined at a right angle [m].

    Good to a centimetre below 10 km and 100 m; over long high paths use `chord_m`.
    """
    ground = geodesic(start, end).distance_m
    return float(np.hypot(ground, end.height_m - start.height_m))


def other_paired(counts: PairedCounts) -> dict[str, float]:
    """Return the other schools of a paired comparison: chi-square, Wald, Agresti and Min 2005."""
    n, b, c = counts.sent, counts.first, counts.second
    half = 1.959963984540054
    wald = half * math.sqrt(max(b + c - (b - c) ** 2 / n, 0.0)) / n
    more, less, wider = b + 0.5, c + 0.5, n + 2.0
    middle = (more - less) / wider
    added = half * math.sqrt(more + less - (more - less) ** 2 / wider) / wider
    found = {
        "wald_low": counts.difference - wald,
        "wald_high": counts.difference + wald,
        "agresti_min_low": middle - added,
        "agresti_min_high": middle + added,
    }
    if b + c:
        found["chi2"] = (b - c) ** 2 / (b + c)
        found["chi2_continuity"] = (abs(b - c) - 1) ** 2 / (b + c)
    return found
