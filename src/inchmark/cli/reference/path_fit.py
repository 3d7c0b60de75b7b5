"""Two simple fits: a straight line through path loss, and a normal cut off or censored below.

They are the reference for the link model and the figures people expect to see; neither treats
lost frames and shadowing together as the link model does.

References
----------
Ordinary least squares with Student t limits; Tobin 1958 (censored) and Cohen 1959
(truncated), from memory.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import minimize
from scipy.special import stdtrit

from inchmark.core.checks import Floats, positive
from inchmark.core.interval import Interval
from inchmark.core.normal import LOG_SQRT_2PI, log_ndtr


@dataclass(frozen=True, slots=True, kw_only=True)
class StraightLineFit:
    """Path loss against lg distance: 95 % limits, sigma with n - 2 degrees of freedom."""

    loss_at_reference_db: float
    loss_limits_db: Interval
    exponent: float
    exponent_limits: Interval
    sigma_db: float
    r_squared: float
    points: int


def fit_straight_line(
    distance_m: Floats, loss_db: Floats, *, reference_m: float = 1.0, confidence: float = 0.95
) -> StraightLineFit:
    """Return the least-squares line of path loss [dB] on 10 lg(d / d0), shape (points,).

    Raises
    ------
    ValueError
        Fewer than 3 points, or all at one distance.
    """
    x = 10 * np.log10(positive("distance_m", distance_m) / positive("reference_m", reference_m))
    y = np.asarray(loss_db, dtype=np.float64)
    if len(x) < 3 or np.ptp(x) == 0:
        raise ValueError(f"distance_m={distance_m!r} must hold 3 points at 2 distances or more")
    spread = float(np.sum((x - x.mean()) ** 2))
    exponent = float(np.sum((x - x.mean()) * (y - y.mean())) / spread)
    intercept = float(y.mean() - exponent * x.mean())
    residual = y - intercept - exponent * x
    sigma = float(np.sqrt(np.sum(residual**2) / (len(x) - 2)))
    t = float(stdtrit(len(x) - 2, 0.5 + confidence / 2))
    half_slope = t * sigma / np.sqrt(spread)
    half_intercept = t * sigma * np.sqrt(1 / len(x) + x.mean() ** 2 / spread)
    total = float(np.sum((y - y.mean()) ** 2))
    return StraightLineFit(
        loss_at_reference_db=intercept,
        loss_limits_db=Interval(intercept - half_intercept, intercept + half_intercept),
        exponent=exponent,
        exponent_limits=Interval(exponent - half_slope, exponent + half_slope),
        sigma_db=sigma,
        r_squared=1 - float(np.sum(residual**2)) / total if total > 0 else 1.0,
        points=len(x),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class CutNormalFit:
    """Mean and sigma [dB] behind a sample whose low end is missing; None where none is finite."""

    mean_dbm: float | None
    sigma_db: float | None
    log_likelihood: float | None
    sample_mean_dbm: float
    sample_sd_db: float

    @property
    def finite(self) -> bool:
        """Tell whether the likelihood has a maximum at all."""
        return self.mean_dbm is not None


def fit_cut_normal(values_dbm: Floats, limit_dbm: float, *, censored: int | None) -> CutNormalFit:
    """Return the maximum-likelihood normal behind readings at or above a limit [dBm].

    Parameters
    ----------
    values_dbm
        Readings [dBm], shape (n,), at least 2.
    limit_dbm
        Level below which nothing was read [dBm].
    censored
        How many readings fell below the limit; None where that is unknown (truncated).
    """
    values = np.asarray(values_dbm, dtype=np.float64)
    if len(values) < 2:
        raise ValueError(f"values_dbm={values_dbm!r} must hold at least 2 readings")
    mean, variance = float(values.mean()), float(values.var())
    sample_sd = float(values.std(ddof=1))
    # Truncated: no finite maximum once the readings spread as far as they lie above the limit.
    if variance == 0 or (censored is None and variance >= (mean - limit_dbm) ** 2):
        return CutNormalFit(
            mean_dbm=None,
            sigma_db=None,
            log_likelihood=None,
            sample_mean_dbm=mean,
            sample_sd_db=sample_sd,
        )
    n = len(values)

    def log_likelihood(point: Floats) -> float:
        mu, sigma = point[0], np.exp(point[1])
        squares = n * (variance + (mean - mu) ** 2)
        body = -n * (np.log(sigma) + LOG_SQRT_2PI) - squares / (2 * sigma**2)
        if censored is None:
            return float(body - n * log_ndtr((mu - limit_dbm) / sigma))
        return float(body + censored * log_ndtr((limit_dbm - mu) / sigma))

    best = minimize(
        lambda point: -log_likelihood(point),
        np.array([mean, np.log(np.sqrt(variance))]),
        method="Nelder-Mead",
        options={"xatol": 1e-8, "fatol": 1e-10, "maxiter": 5000, "maxfev": 5000},
    )
    return CutNormalFit(
        mean_dbm=float(best.x[0]),
        sigma_db=float(np.exp(best.x[1])),
        log_likelihood=-float(best.fun),
        sample_mean_dbm=mean,
        sample_sd_db=sample_sd,
    )
