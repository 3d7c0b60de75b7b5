"""Which further stop would narrow an answer most: expected information, without walking it.

For a candidate distance the expected Fisher information of a visit in (mu, t) is taken at the
margin predicted there, over what a new place may add; the visit's own locals and the new stop's
shadowing are eliminated as in the fit. What is left adds to the information on the globals.
Reference: Lindley 1956 (information of an experiment), from memory; the rule is the method's.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.special import ndtri

from inchmark.core.checks import Floats
from inchmark.core.link_model.data import LinkKey
from inchmark.core.link_model.posterior import Posterior
from inchmark.core.normal import inverse_mills, ndtr

CANDIDATES = 16
NEARER, FARTHER = 0.5, 2.0  # times the nearest and the farthest stop
STOP_TELLS_OF_SIGMA = 0.8  # of the information one more stop could have about ln sigma_s
_HERMITE = np.polynomial.hermite_e.hermegauss(5)
_READINGS = np.linspace(-5, 5, 81)  # of a frame's level about the visit's, in its own spread
_MARGINS = np.linspace(-60, 80, 281)


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """What is to be narrowed: weights on the globals (G,), and on ln sigma_s."""

    weights: Floats
    by_ln_sigma_s: float = 0.0


def range_target(p: Posterior, link: LinkKey, *, loss: float, places: float) -> Target:
    """Return lg of a link's range as a target."""
    c = p.centre
    slices, weights = c.model.slices, np.zeros(len(c.x))
    column = p.index(link)
    slope = max(float(np.median(p.exponent)), 0.7)
    spread = float(c.spreads.place_db[0])
    keep = float(c.spreads.frame_db[0]) * float(ndtri(1 - loss)) + float(ndtri(places)) * spread
    margin = float(np.median(p.margin(link))) - keep
    weights[slices["level"].start + column] = 1 / (10 * slope)
    weights[slices["threshold"].start + p.data.threshold_of[column]] = -1 / (10 * slope)
    weights[slices["slopes"].start] = -margin / (10 * slope**2)
    by_sigma = -float(ndtri(places)) * float(c.spreads.sigma_s[0]) ** 2 / spread / (10 * slope)
    return Target(weights=weights, by_ln_sigma_s=by_sigma)


def difference_target(p: Posterior, link: LinkKey, against: LinkKey) -> Target:
    """Return the margin difference of two links as a target."""
    weights = np.zeros(len(p.centre.x))
    slices = p.centre.model.slices
    for one, sign in ((link, 1.0), (against, -1.0)):
        weights[slices["level"].start + p.index(one)] += sign
        weights[slices["threshold"].start + p.data.threshold_of[p.index(one)]] -= sign
    return Target(weights=weights)


@dataclass(frozen=True)
class Outlook:
    """What further stops would do to a target; `frames` sent at each visit, worth 1 / tau each."""

    posterior: Posterior
    target: Target
    links: Sequence[LinkKey]
    frames: float

    def candidates_m(self) -> Floats:
        """Return the distances worth thinking of [m]."""
        d = [one.distance_m for one in self.posterior.data.places]
        found: Floats = np.geomspace(NEARER * min(d), FARTHER * max(d), CANDIDATES)
        return found

    @cached_property
    def now_sd(self) -> float:
        """Return the target's standard deviation as it is."""
        return self._sd(self._precision, 0)

    @cached_property
    def _precision(self) -> Floats:
        return np.asarray(np.linalg.inv(self.posterior.centre.covariance), dtype=np.float64)

    def after(self, distances_m: Sequence[float]) -> float:
        """Return the standard deviation expected after visits by all links at further stops [m]."""
        added = sum((self.information(d) for d in distances_m), np.zeros_like(self._precision))
        return self._sd(self._precision + added, len(distances_m))

    def best(self, among_m: Sequence[float], before_m: Sequence[float] = ()) -> tuple[float, float]:
        """Return the distance that narrows most, and the deviation expected after it."""
        found = [(self.after([*before_m, d]), float(d)) for d in among_m]
        sd, metres = min(found)
        return metres, sd

    def _sd(self, precision: Floats, stops: int) -> float:
        w, c = self.target.weights, self.posterior.centre
        variance = float(w @ np.linalg.solve(precision, w))
        own = 1 / c.ln_sigma_s_sd**2
        seen = c.spreads.sigma_s[0] ** 2 / (c.spreads.sigma_s[0] ** 2 + c.spreads.sigma_e[0] ** 2)
        own += stops * STOP_TELLS_OF_SIGMA * 2 * float(seen) ** 2
        return float(np.sqrt(variance + self.target.by_ln_sigma_s**2 / own))

    @cached_property
    def _known(self) -> dict[float, Floats]:
        return {}

    def information(self, distance_m: float) -> Floats:
        """Return what visits by all links at one more stop would add (G, G); worked out once."""
        if distance_m not in self._known:
            self._known[distance_m] = self._information(distance_m)
        return self._known[distance_m]

    def _information(self, distance_m: float) -> Floats:
        c = self.posterior.centre
        model, data = c.model, self.posterior.data
        size = len(c.x)
        on_x, to_s = np.zeros((size, size)), np.zeros(size)
        of_s = 1 / float(c.spreads.sigma_s[0]) ** 2
        basis = data.law.basis(np.array(distance_m), data.centre_m)
        known = float(data.law.known_db(np.array(distance_m), data.centre_m))
        for link in self.links:
            i = self.posterior.index(link)
            to_mu, to_t = np.zeros(size), np.zeros(size)
            to_mu[model.slices["level"].start + i] = 1
            to_mu[model.slices["slopes"]] = -basis
            to_t[model.slices["threshold"].start + data.threshold_of[i]] = 1
            margin = float(c.x @ (to_mu - to_t)) - known
            w_mm, w_mt, w_tt = self._visit(margin)
            level, threshold = w_mm * to_mu + w_mt * to_t, w_mt * to_mu + w_tt * to_t
            on_x += np.outer(to_mu, level) + np.outer(to_t, threshold)
            to_s += level
            of_s += w_mm
        found: Floats = on_x - np.outer(to_s, to_s) / of_s
        return found

    def _visit(self, margin_db: float) -> tuple[float, float, float]:
        """Return the information of a visit about (mu, t) after its locals are eliminated."""
        s = self.posterior.centre.spreads
        spread = float(np.hypot(s.sigma_s[0], s.sigma_e[0]))
        nodes, weights = _HERMITE
        margins = margin_db + spread * nodes
        shares = weights / weights.sum()
        k_mm, k_mt, k_tt = (
            float(shares @ np.interp(margins, _MARGINS, one)) * self.frames for one in self._table
        )
        p_mu, p_t = 1 / float(s.sigma_e[0]) ** 2, 1 / float(s.sigma_t[0]) ** 2
        mm, tt = k_mm + p_mu, k_tt + p_t
        det = mm * tt - k_mt**2
        w_mm = p_mu - p_mu**2 * tt / det
        w_mt = p_mu * p_t * k_mt / det
        w_tt = p_t - p_t**2 * mm / det
        return w_mm, w_mt, w_tt

    @cached_property
    def _table(self) -> tuple[Floats, Floats, Floats]:
        """Return the information of one frame about (mu, t) over margins."""
        s = self.posterior.centre.spreads
        sigma, w = float(s.sigma_f[0]), float(s.waterfall_db[0])
        frame, floor = float(s.frame_db[0]), float(s.floor[0])
        r = _READINGS * sigma
        density = np.exp(-(_READINGS**2) / 2)
        density /= density.sum()
        above = (_MARGINS[:, None] + r) / w
        heard = (1 - floor) * ndtr(above) * density
        by_mu, by_t = r / sigma**2, -inverse_mills(above) / w
        z = _MARGINS / frame
        lost = 1 - (1 - floor) * ndtr(z)
        hazard = (1 - floor) * np.exp(-(z**2) / 2) / np.sqrt(2 * np.pi) / lost / frame
        silent = lost * hazard**2
        k_mm = np.sum(heard * by_mu**2, axis=1) + silent
        k_mt = np.sum(heard * by_mu * by_t, axis=1) - silent
        k_tt = np.sum(heard * by_t**2, axis=1) + silent
        return k_mm, k_mt, k_tt
