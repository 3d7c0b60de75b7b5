"""The joint mode of globals and locals at given hypers, by Newton, and its Laplace evidence.

Globals are x = (a_r, n, b_c, theta_r, S_s); the two locals of a visit (E_v, T_v) are eliminated
exactly, visit by visit, so the dense system has only as many rows as there are globals.
Reference: Rue, Martino and Chopin 2009, from memory.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.link_model.data import FitData, RigPrior
from inchmark.core.link_model.likelihood import Spreads, Terms, visit_terms

# Weak priors, our own choice: they make four stops of thirty frames finite, and the coverage measured
# on invented sites with them is what vouches for them. What each is about (common practice):
EXPONENT_PRIOR = (3.0, 1.0)  # mean, sd: from guided (2) to dense (4) and beyond
PENALTY_PRIOR = (6.0, 8.0)  # dB: what a body or a box takes, from nothing to 20 dB
LEVEL_COMMON_SD_DB = 25.0  # about the level of the data: nearly flat
LEVEL_RIG_SD_DB = 8.0  # between rigs: antennas and powers of one study
THRESHOLD_TYPE_SD_DB = 4.0  # about a datasheet, what RSSI scale and layout add
THRESHOLD_CONDUCTED_SD_DB = 1.5  # about a conducted ladder, cable and attenuators
THRESHOLD_UNIT_SD_DB = 1.0  # between units of one module
THRESHOLD_UNKNOWN_SD_DB = 10.0  # no datasheet: centred a little under the lowest level heard
MAX_STEP_DB = 15.0
_MAX_ROUNDS, _MAX_HALVINGS, _TOLERANCE_DB = 60, 14, 1e-7


@dataclass(frozen=True, slots=True)
class Model:
    """The linear part: how globals make mu and t of each visit, and their prior."""

    data: FitData
    to_mu: Floats  # (V, G)
    to_t: Floats  # (V, G)
    prior_mean: Floats  # (G,)
    prior_precision: Floats  # (G, G), shadowing block left 0
    shadow_precision: Floats  # (S, S), inverse of the correlation
    prior_log_det: float  # of the precision, without sigma_s
    slices: dict[str, slice]


@dataclass(slots=True)
class Mode:
    """Mode of a batch of hyper points: globals (B, G), locals (B, V), and the pieces around it."""

    phi: Floats
    x: Floats
    shift_mu: Floats  # E_v
    shift_t: Floats  # T_v
    log_evidence: Floats  # without the hyper prior
    covariance: Floats  # (B, G, G)
    terms: Terms


def build_model(data: FitData, *, correlation_m: float = 0.0) -> Model:
    """Return the linear model; shadowing of stops correlates as exp(-distance / correlation_m)."""
    r, c, s = len(data.rigs), len(data.conditions) - 1, len(data.stops)
    slices = {
        "level": slice(0, r),
        "exponent": slice(r, r + 1),
        "penalty": slice(r + 1, r + 1 + c),
        "threshold": slice(r + 1 + c, 2 * r + 1 + c),
        "shadow": slice(2 * r + 1 + c, 2 * r + 1 + c + s),
    }
    visits, globals_ = len(data.rig), slices["shadow"].stop
    rows = np.arange(visits)
    to_mu, to_t = np.zeros((visits, globals_)), np.zeros((visits, globals_))
    to_mu[rows, data.rig] = 1
    to_mu[:, slices["exponent"].start] = -data.lg_ratio
    carried = data.condition > 0
    to_mu[rows[carried], slices["penalty"].start + data.condition[carried] - 1] = -1
    to_mu[rows, slices["shadow"].start + data.stop] = 1
    to_t[rows, slices["threshold"].start + data.rig] = 1
    mean, covariance = _global_prior(data, slices)
    fixed = slice(0, slices["shadow"].start)
    precision = np.zeros((globals_, globals_))
    precision[fixed, fixed] = np.linalg.inv(covariance)
    shadow = np.asarray(np.linalg.inv(_shadow_correlation(data, correlation_m)), dtype=np.float64)
    log_det = -np.linalg.slogdet(covariance)[1] + np.linalg.slogdet(shadow)[1]
    return Model(data, to_mu, to_t, mean, precision, shadow, float(log_det), slices)


def _global_prior(data: FitData, slices: dict[str, slice]) -> tuple[Floats, Floats]:
    size = slices["shadow"].start
    mean, covariance = np.zeros(slices["shadow"].stop), np.zeros((size, size))
    rig = slices["level"]
    mean[rig] = data.data_level_dbm
    covariance[rig, rig] = LEVEL_COMMON_SD_DB**2 + LEVEL_RIG_SD_DB**2 * np.eye(len(data.rigs))
    mean[slices["exponent"]], sd = EXPONENT_PRIOR
    covariance[slices["exponent"], slices["exponent"]] = sd**2
    mean[slices["penalty"]], sd = PENALTY_PRIOR
    penalty = slices["penalty"]
    covariance[penalty, penalty] = sd**2 * np.eye(penalty.stop - penalty.start)
    threshold = slices["threshold"]
    mean[threshold], covariance[threshold, threshold] = _threshold_prior(data)
    return mean, covariance


def _threshold_prior(data: FitData) -> tuple[Floats, Floats]:
    """Return mean and covariance of the thresholds.

    One shared error per module type, one per unit.
    """
    rigs = len(data.rigs)
    mean, covariance = np.zeros(rigs), THRESHOLD_UNIT_SD_DB**2 * np.eye(rigs)
    lowest = np.where(
        np.isfinite(data.lowest_heard_dbm), data.lowest_heard_dbm, np.nanmin(data.lowest_heard_dbm)
    )
    for i, one in enumerate(data.priors):
        known = one.sensitivity_dbm is not None
        mean[i] = one.sensitivity_dbm if known else lowest[i] - 3
        for j, other in enumerate(data.priors):
            if i == j or (known and one == other and one.module_type):
                covariance[i, j] += _shared_sd(one) ** 2
    return mean, covariance


def _shared_sd(prior: RigPrior) -> float:
    if prior.sensitivity_dbm is None:
        return THRESHOLD_UNKNOWN_SD_DB
    return THRESHOLD_CONDUCTED_SD_DB if prior.conducted else THRESHOLD_TYPE_SD_DB


def _shadow_correlation(data: FitData, correlation_m: float) -> Floats:
    if correlation_m <= 0:
        return np.eye(len(data.stops))
    apart = np.abs(data.stop_distance_m[:, None] - data.stop_distance_m[None, :])
    correlation: Floats = np.exp(-apart / correlation_m) + 1e-9 * np.eye(len(data.stops))
    return correlation


def find_mode(model: Model, phi: Floats, start: Mode | None = None) -> Mode:
    """Return the mode at hyper points phi, shape (B, 6); `start` (one point) warms it up."""
    batch, visits = len(phi), len(model.data.rig)
    spreads = Spreads.from_hypers(phi)
    precision = np.broadcast_to(model.prior_precision, (batch, *model.prior_precision.shape)).copy()
    shadow = model.slices["shadow"]
    precision[:, shadow, shadow] += model.shadow_precision / spreads.sigma_s[:, None, None] ** 2
    if start is None:
        x = np.broadcast_to(model.prior_mean, (batch, len(model.prior_mean))).copy()
        e_mu, e_t = np.zeros((batch, visits)), np.zeros((batch, visits))
    else:
        x, e_mu, e_t = (
            np.repeat(part[:1], batch, axis=0) for part in (start.x, start.shift_mu, start.shift_t)
        )
    newton = _Newton(model, spreads, precision)
    x, e_mu, e_t, terms, objective = newton.run(x, e_mu, e_t)
    system = newton.reduce(terms)
    log_det = np.linalg.slogdet(system.hessian)[1] + np.sum(np.log(system.local_det), axis=-1)
    s_count = len(model.data.stops)
    prior_log_det = (
        model.prior_log_det
        - 2 * s_count * np.log(spreads.sigma_s)
        - 2 * visits * (np.log(spreads.sigma_e) + np.log(spreads.sigma_t))
    )
    covariance = np.asarray(np.linalg.inv(system.hessian), dtype=np.float64)
    return Mode(
        phi=phi,
        x=x,
        shift_mu=e_mu,
        shift_t=e_t,
        terms=terms,
        log_evidence=objective + 0.5 * (prior_log_det - log_det),
        covariance=covariance,
    )


@dataclass(slots=True)
class _System:
    hessian: Floats  # (B, G, G)
    inverse: tuple[Floats, Floats, Floats]  # (K+P)^-1 as mm, mt, tt
    local_det: Floats  # |K+P|


@dataclass(slots=True)
class _Newton:
    model: Model
    spreads: Spreads
    precision: Floats

    def predict(self, x: Floats, e_mu: Floats, e_t: Floats) -> tuple[Floats, Floats]:
        """Return mu and t of every visit."""
        return (
            x @ self.model.to_mu.T + e_mu,
            x @ self.model.to_t.T + self.model.data.noise_shift + e_t,
        )

    def value(self, x: Floats, e_mu: Floats, e_t: Floats) -> tuple[Floats, Terms]:
        """Return log likelihood + log prior kernel (B,), and the visit terms."""
        terms = visit_terms(self.model.data, self.spreads, *self.predict(x, e_mu, e_t))
        off = x - self.model.prior_mean
        prior = np.einsum("bg,bgh,bh->b", off, self.precision, off)
        local = np.sum(e_mu**2, axis=-1) / self.spreads.sigma_e**2
        local += np.sum(e_t**2, axis=-1) / self.spreads.sigma_t**2
        return np.sum(terms.value, axis=-1) - 0.5 * (prior + local), terms

    def reduce(self, terms: Terms) -> _System:
        """Return the system in the globals after the locals are eliminated."""
        p_mu = 1 / self.spreads.sigma_e[:, None] ** 2
        p_t = 1 / self.spreads.sigma_t[:, None] ** 2
        mm, mt, tt = terms.mu_mu + p_mu, terms.mu_t, terms.t_t + p_t
        det = mm * tt - mt**2
        inverse = (tt / det, -mt / det, mm / det)
        # reduced information P - P (K+P)^-1 P
        w_mm, w_mt, w_tt = (
            p_mu - p_mu**2 * inverse[0],
            -p_mu * p_t * inverse[1],
            p_t - p_t**2 * inverse[2],
        )
        to_mu, to_t = self.model.to_mu, self.model.to_t
        cross = np.matmul(to_mu.T * w_mt[:, None, :], to_t)
        hessian = (
            self.precision
            + np.matmul(to_mu.T * w_mm[:, None, :], to_mu)
            + np.matmul(to_t.T * w_tt[:, None, :], to_t)
            + cross
            + np.swapaxes(cross, 1, 2)
        )
        return _System(hessian, inverse, det)

    def step(
        self, x: Floats, e_mu: Floats, e_t: Floats, terms: Terms
    ) -> tuple[Floats, Floats, Floats]:
        """Return the full Newton step in globals and locals."""
        system = self.reduce(terms)
        a_mm, a_mt, a_tt = system.inverse
        r_mu = terms.by_mu - e_mu / self.spreads.sigma_e[:, None] ** 2
        r_t = terms.by_t - e_t / self.spreads.sigma_t[:, None] ** 2
        # g - K (K+P)^-1 r, visit by visit
        l_mu, l_t = a_mm * r_mu + a_mt * r_t, a_mt * r_mu + a_tt * r_t
        g_mu = terms.by_mu - terms.mu_mu * l_mu - terms.mu_t * l_t
        g_t = terms.by_t - terms.mu_t * l_mu - terms.t_t * l_t
        gradient = (
            g_mu @ self.model.to_mu
            + g_t @ self.model.to_t
            - np.einsum("bgh,bh->bg", self.precision, x - self.model.prior_mean)
        )
        dx = np.linalg.solve(system.hessian, gradient[..., None])[..., 0]
        d_mu, d_t = dx @ self.model.to_mu.T, dx @ self.model.to_t.T
        k_mu, k_t = terms.mu_mu * d_mu + terms.mu_t * d_t, terms.mu_t * d_mu + terms.t_t * d_t
        return dx, l_mu - a_mm * k_mu - a_mt * k_t, l_t - a_mt * k_mu - a_tt * k_t

    def run(
        self, x: Floats, e_mu: Floats, e_t: Floats
    ) -> tuple[Floats, Floats, Floats, Terms, Floats]:
        """Return the mode, the terms there and the objective.

        Each batch row halves its own step.
        """
        objective, terms = self.value(x, e_mu, e_t)
        for _ in range(_MAX_ROUNDS):
            steps = self.step(x, e_mu, e_t, terms)
            largest = np.max([np.max(np.abs(part), axis=-1) for part in steps], axis=0)
            scale = np.minimum(1.0, MAX_STEP_DB / np.maximum(largest, 1e-300))
            for _ in range(_MAX_HALVINGS):
                trial = [
                    part + scale[:, None] * step
                    for part, step in zip((x, e_mu, e_t), steps, strict=True)
                ]
                new, new_terms = self.value(*trial)
                worse = ~(new >= objective - 1e-9 * (1 + np.abs(objective)))
                if not np.any(worse):
                    break
                scale = np.where(worse, scale / 2, scale)
            x, e_mu, e_t = trial
            terms, objective = new_terms, new
            if np.max(largest) < _TOLERANCE_DB:
                break
        return x, e_mu, e_t, terms, objective
