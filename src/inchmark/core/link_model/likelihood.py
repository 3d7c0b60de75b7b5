"""The likelihood of one visit in its level mu and threshold t, with first and second derivatives.

Every array carries a leading batch axis (B,) over points in hyper space, then visits (V,).
A lost frame is censored: ln(1 - (1-eps) Phi(z)), z = (mu - t) / s, s^2 = sigma_f^2 + w^2.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.link_model.data import FitData
from inchmark.core.normal import inverse_mills, log_ndtr, log_ndtr_and_mills, log_phi

HYPERS = ("ln_sigma_s", "ln_sigma_e", "ln_sigma_f", "ln_w", "logit_eps", "ln_sigma_t")


@dataclass(frozen=True, slots=True)
class Spreads:
    """The hyper parameters in natural units, each of shape (B,)."""

    sigma_s: Floats
    sigma_e: Floats
    sigma_f: Floats
    waterfall_db: Floats
    floor: Floats
    sigma_t: Floats

    @classmethod
    def from_hypers(cls, phi: Floats) -> Spreads:
        """Return the spreads of hyper points, shape (B, 6)."""
        s, e, f, w, eps, t = np.moveaxis(phi, -1, 0)
        return cls(np.exp(s), np.exp(e), np.exp(f), np.exp(w), 1 / (1 + np.exp(-eps)), np.exp(t))

    @property
    def frame_db(self) -> Floats:
        """Return s, the spread of a single frame seen through the waterfall [dB]."""
        spread: Floats = np.sqrt(self.sigma_f**2 + self.waterfall_db**2)
        return spread

    @property
    def place_db(self) -> Floats:
        """Return sigma_L, the spread of margin from place to place [dB]."""
        spread: Floats = np.sqrt(self.sigma_s**2 + self.sigma_e**2 + self.sigma_t**2)
        return spread


@dataclass(slots=True)
class Terms:
    """Log likelihood, its gradient and negative Hessian in (mu, t), each (B, V)."""

    value: Floats
    by_mu: Floats
    by_t: Floats
    mu_mu: Floats
    mu_t: Floats
    t_t: Floats


def visit_terms(data: FitData, spreads: Spreads, mu: Floats, t: Floats) -> Terms:
    """Return the terms of every visit at levels mu and thresholds t [dBm], shape (B, V)."""
    terms = Terms(*(np.zeros_like(mu) for _ in range(6)))
    _add_levels(terms, data, spreads, mu)
    _add_clipped(terms, data, spreads, mu)
    _add_waterfall(terms, data, spreads, t)
    _add_lost(terms, data, spreads, (mu - t) / spreads.frame_db[:, None])
    _add_heard_unknown(terms, data, spreads, (mu - t) / spreads.frame_db[:, None])
    heard = data.exact + data.clipped + data.heard_unknown
    terms.value += heard * np.log1p(-spreads.floor)[:, None]
    return terms


def _rounded_spread(data: FitData, spreads: Spreads) -> Floats:
    spread: Floats = np.sqrt(spreads.sigma_f**2 + data.step_db**2 / 12)[:, None]
    return spread


def _add_levels(terms: Terms, data: FitData, spreads: Spreads, mu: Floats) -> None:
    spread = _rounded_spread(data, spreads)
    off = data.exact_mean - mu
    squares = data.exact_squares + data.exact * off**2
    terms.value += data.exact * (log_phi(np.zeros(1)) - np.log(spread)) - squares / (2 * spread**2)
    terms.by_mu += data.exact * off / spread**2
    terms.mu_mu += data.exact / spread**2


def _add_clipped(terms: Terms, data: FitData, spreads: Spreads, mu: Floats) -> None:
    if data.clip_dbm is None or not np.any(data.clipped):
        return
    spread = _rounded_spread(data, spreads)
    u = (mu - (data.clip_dbm - data.step_db / 2)) / spread
    ratio = inverse_mills(u)
    terms.value += data.clipped * log_ndtr(u)
    terms.by_mu += data.clipped * ratio / spread
    terms.mu_mu += data.clipped * ratio * (ratio + u) / spread**2


def _add_waterfall(terms: Terms, data: FitData, spreads: Spreads, t: Floats) -> None:
    """Add ln Phi((r - t) / w) of the heard levels near the threshold."""
    width = spreads.waterfall_db[:, None]
    u = (data.bin_level - t[..., None]) / width[..., None]
    log_share, ratio = log_ndtr_and_mills(u)
    terms.value += np.sum(data.bin_count * log_share, axis=-1)
    terms.by_t -= np.sum(data.bin_count * ratio, axis=-1) / width
    terms.t_t += np.sum(data.bin_count * ratio * (ratio + u), axis=-1) / width**2


def _add_lost(terms: Terms, data: FitData, spreads: Spreads, z: Floats) -> None:
    floor = spreads.floor[:, None]
    log_lost = np.logaddexp(log_ndtr(-z), np.log(floor) + log_ndtr(z))
    hazard = np.exp(np.log1p(-floor) + log_phi(z) - log_lost)
    curvature = np.maximum(hazard**2 - z * hazard, 0.0)
    _add_in_z(terms, spreads, data.lost * log_lost, -data.lost * hazard, data.lost * curvature)


def _add_heard_unknown(terms: Terms, data: FitData, spreads: Spreads, z: Floats) -> None:
    if not np.any(data.heard_unknown):
        return
    n, ratio = data.heard_unknown, inverse_mills(z)
    _add_in_z(terms, spreads, n * log_ndtr(z), n * ratio, n * ratio * (ratio + z))


def _add_in_z(
    terms: Terms, spreads: Spreads, value: Floats, slope: Floats, curvature: Floats
) -> None:
    s = spreads.frame_db[:, None]
    terms.value += value
    terms.by_mu += slope / s
    terms.by_t -= slope / s
    terms.mu_mu += curvature / s**2
    terms.t_t += curvature / s**2
    terms.mu_t -= curvature / s**2
