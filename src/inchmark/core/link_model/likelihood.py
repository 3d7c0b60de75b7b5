"""The likelihood of one visit in its level mu and threshold t, with first and second derivatives.

Every array carries a leading batch axis (B,) over points in hyper space, then visits (V,).
A lost frame is censored: ln(1 - (1-eps) Phi(z)), z = (mu - t) / s, s^2 = sigma_f^2 + w^2.
Losses that level does not explain are in it as well: the floor eps of a visit is the study's, or
now and then a larger one (interference, collisions, restarts), mixed by how likely the counts are.
"""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats
from inchmark.core.link_model.data import FitData
from inchmark.core.normal import inverse_mills, log_ndtr, log_ndtr_and_mills, log_phi, ndtr

OTHER_FLOORS = (0.05, 0.1, 0.17, 0.27, 0.4, 0.6)  # what a disturbed visit loses, all as likely
COARSE_STEP_DB = 2.0  # up to here rounding is under a sixth of the usual softness, squared
USUAL_PENALTY_SPREAD_DB = 4.0  # between rigs in one condition


@dataclass(frozen=True, slots=True)
class Spreads:
    """The hyper parameters in natural units, each of shape (B,)."""

    sigma_s: Floats
    sigma_e: Floats
    sigma_f: Floats
    waterfall_db: Floats
    floor: Floats
    sigma_t: Floats
    sigma_b: Floats

    @classmethod
    def from_hypers(cls, phi: Floats) -> Spreads:
        """Return the spreads of hyper points, shape (B, 6), or (B, 7) with sigma_b."""
        s, e, f, w, eps, t, *b = np.moveaxis(phi, -1, 0)
        own = np.exp(b[0]) if b else np.full_like(s, USUAL_PENALTY_SPREAD_DB)
        floor = 1 / (1 + np.exp(-eps))
        return cls(np.exp(s), np.exp(e), np.exp(f), np.exp(w), floor, np.exp(t), own)

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
    """Log likelihood, its gradient and negative Hessian in (mu, t), each (B, V).

    `own_floor` is how likely the losses of a visit are the study's usual ones.
    """

    value: Floats
    by_mu: Floats
    by_t: Floats
    mu_mu: Floats
    mu_t: Floats
    t_t: Floats
    own_floor: Floats

    def of_rows(self, rows: NDArray[np.intp]) -> Terms:
        """Return the terms of a part of the batch."""
        return Terms(*(getattr(self, f.name)[rows] for f in fields(Terms)))

    def put(self, rows: NDArray[np.intp], part: Terms) -> None:
        """Take over the rows of a part of the batch."""
        for f in fields(Terms):
            getattr(self, f.name)[rows] = getattr(part, f.name)


def visit_terms(data: FitData, spreads: Spreads, mu: Floats, t: Floats) -> Terms:
    """Return the terms of every visit at levels mu and thresholds t [dBm], shape (B, V)."""
    terms = Terms(*(np.zeros_like(mu) for _ in range(7)))
    z = (mu - t) / spreads.frame_db[:, None]
    _add_levels(terms, data, spreads, mu)
    _add_clipped(terms, data, spreads, mu)
    _add_waterfall(terms, data, spreads, t)
    _add_floors(terms, data, spreads, z)
    _add_heard_unknown(terms, data, spreads, z)
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
    count, level, visit, starts, rows = data.bins_near
    if not len(rows):
        return
    # within a coarse step the level is not known, which softens the edge that readings show
    step = data.step_db if data.step_db > COARSE_STEP_DB else 0.0
    width = np.sqrt(spreads.waterfall_db**2 + step**2 / 12)[:, None]
    u = (level - t[:, visit]) / width
    log_share, ratio = log_ndtr_and_mills(u)
    weighed = count * ratio
    terms.value[:, rows] += np.add.reduceat(count * log_share, starts, axis=1)
    terms.by_t[:, rows] -= np.add.reduceat(weighed, starts, axis=1) / width
    terms.t_t[:, rows] += np.add.reduceat(weighed * (ratio + u), starts, axis=1) / width**2


def _add_floors(terms: Terms, data: FitData, spreads: Spreads, z: Floats) -> None:
    """Add what was lost, and that what was heard was not; a floor per visit, summed out.

    ln sum_j pi_j exp(l_j): its gradient is the mean of the g_j by how likely each floor is, its
    curvature the mean of the curvatures less the variance of the g_j.
    """
    heard = data.exact + data.clipped + data.heard_unknown
    floors = np.empty((1 + len(OTHER_FLOORS), len(z), 1))
    floors[0, :, 0] = spreads.floor
    floors[1:] = np.array(OTHER_FLOORS)[:, None, None]
    log_kept = np.log1p(-floors)
    lossy = data.lossy
    none_lost = ~lossy
    other = (1 - data.own_floor_share) / len(OTHER_FLOORS)
    log_shares = np.log([data.own_floor_share] + [other] * len(OTHER_FLOORS))
    total, share = _summed_out(heard[none_lost] * log_kept, log_shares)
    terms.value[:, none_lost] += total
    terms.own_floor[:, none_lost] = share[0]
    if not np.any(lossy):
        return
    lost, kept, at = data.lost[lossy], heard[lossy], z[:, lossy]
    below = ndtr(-at)
    # never under the floor, so neither the logarithm nor the quotient can run away
    share_lost = below + floors * (1 - below)
    hazard = np.exp(log_kept + log_phi(at)) / share_lost
    value, share = _summed_out(lost * np.log(share_lost) + kept * log_kept, log_shares)
    slopes = -lost * hazard
    slope = np.sum(share * slopes, axis=0)
    spread = np.sum(share * (slopes - slope) ** 2, axis=0)
    curvatures = lost * hazard * (hazard - at)
    curvature = np.maximum(np.sum(share * curvatures, axis=0) - spread, 0.0)
    _add_in_z(terms, spreads, lossy, value, slope, curvature)
    terms.own_floor[:, lossy] = share[0]


def _summed_out(logs: Floats, log_shares: Floats) -> tuple[Floats, Floats]:
    """Return ln sum_j pi_j exp(l_j) over the floors (J, B, V), and how likely each floor is."""
    each = logs + log_shares[:, None, None]
    top = each.max(axis=0)
    parts = np.exp(each - top)
    total = parts.sum(axis=0)
    return top + np.log(total), parts / total


def _add_heard_unknown(terms: Terms, data: FitData, spreads: Spreads, z: Floats) -> None:
    some = data.heard_unknown > 0
    if not np.any(some):
        return
    n, at = data.heard_unknown[some], z[:, some]
    ratio = inverse_mills(at)
    _add_in_z(terms, spreads, some, n * log_ndtr(at), n * ratio, n * ratio * (ratio + at))


def _add_in_z(
    terms: Terms,
    spreads: Spreads,
    rows: NDArray[np.bool_],
    value: Floats,
    slope: Floats,
    curvature: Floats,
) -> None:
    s = spreads.frame_db[:, None]
    terms.value[:, rows] += value
    terms.by_mu[:, rows] += slope / s
    terms.by_t[:, rows] -= slope / s
    terms.mu_mu[:, rows] += curvature / s**2
    terms.t_t[:, rows] += curvature / s**2
    terms.mu_t[:, rows] -= curvature / s**2
