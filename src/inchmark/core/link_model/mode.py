"""The joint mode of globals and locals at given hypers, by Newton, and its Laplace evidence.

Globals are x = (a_l, slopes, b_rc, theta, S). The remainder F of a rig at a place, which both
directions and receivers side by side share, and the two locals of a visit (E_v, T_v) are
eliminated exactly, so the dense system has only as many rows as there are globals.
Reference: Rue, Martino and Chopin 2009, from memory.
"""

from __future__ import annotations

from copy import copy
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats
from inchmark.core.link_model.likelihood import Spreads, Terms, visit_terms
from inchmark.core.link_model.priors import Model

MAX_STEP_DB = 15.0
_MAX_ROUNDS, _MAX_HALVINGS = 60, 14
_TOLERANCE_DB = 1e-4  # a shorter step moves nothing
_NEARLY_DB, _TOLERANCE_GAIN = 0.02, 1e-5  # nor does one so short that gains so little evidence


@dataclass(slots=True)
class Latent:
    """Everything that is solved for, each with a batch axis first."""

    x: Floats  # globals (B, G)
    f: Floats  # shared remainders (B, groups); no columns where none are shared
    e_mu: Floats  # E_v (B, V)
    e_t: Floats  # T_v (B, V)

    def parts(self) -> tuple[Floats, ...]:
        """Return the four arrays."""
        return self.x, self.f, self.e_mu, self.e_t

    def first(self, batch: int) -> Latent:
        """Return the first point, repeated."""
        return Latent(*(np.repeat(part[:1], batch, axis=0) for part in self.parts()))

    def put(self, rows: NDArray[np.intp], part: Latent) -> None:
        """Take over the rows of a part of the batch."""
        for own, new in zip(self.parts(), part.parts(), strict=True):
            own[rows] = new

    def moved(self, step: Latent, scale: Floats) -> Latent:
        """Return this with a scaled step added."""
        pairs = zip(self.parts(), step.parts(), strict=True)
        return Latent(*(part + scale[:, None] * move for part, move in pairs))


@dataclass(slots=True)
class Mode:
    """Mode of a batch of hyper points, and the pieces around it."""

    phi: Floats
    latent: Latent
    log_evidence: Floats  # without the hyper prior
    covariance: Floats  # of the globals (B, G, G)
    terms: Terms
    system: System

    @property
    def x(self) -> Floats:
        """Return the globals (B, G)."""
        return self.latent.x


@dataclass(slots=True)
class System:
    """The Newton system with locals and shared remainders eliminated."""

    hessian: Floats  # (B, G, G)
    inverse: tuple[Floats, Floats, Floats]  # (K+P)^-1 of each visit as mm, mt, tt
    local_det: Floats  # |K+P|
    shared: Floats  # (B, groups), information on each shared remainder
    to_shared: Floats  # (B, groups, G)


def find_mode(model: Model, phi: Floats, start: Latent | None = None) -> Mode:
    """Return the mode at hyper points phi, shape (B, H); `start` (one point) warms it up."""
    batch, visits = len(phi), len(model.data.link)
    spreads = Spreads.from_hypers(phi)
    newton = _Newton(model, spreads)
    groups = newton.groups
    if start is None:
        start = Latent(
            model.prior_mean[None],
            np.zeros((1, groups)),
            np.zeros((1, visits)),
            np.zeros((1, visits)),
        )
    elif start.f.shape[1] != groups:
        start = Latent(start.x, np.zeros((1, groups)), start.e_mu, start.e_t)
    latent, terms, objective = newton.run(start.first(batch))
    system = newton.reduce(terms)
    log_det = np.linalg.slogdet(system.hessian)[1] + np.sum(np.log(system.local_det), axis=-1)
    log_det += np.sum(np.log(system.shared), axis=-1)
    prior_log_det = newton.prior_log_det - visits * (
        np.log(newton.own_variance) + 2 * np.log(spreads.sigma_t)
    )
    if groups:
        prior_log_det -= groups * np.log(newton.shared_variance)
    covariance = np.asarray(np.linalg.inv(system.hessian), dtype=np.float64)
    return Mode(phi, latent, objective + 0.5 * (prior_log_det - log_det), covariance, terms, system)


class _Newton:
    def __init__(self, model: Model, spreads: Spreads) -> None:
        self.model, self.spreads = model, spreads
        self.precision, self.prior_log_det = model.precision(spreads)
        kappa = model.structure.remainder_share
        self.groups = model.data.groups if kappa else 0
        self.own_variance = (1 - kappa) * spreads.sigma_e**2
        self.shared_variance = kappa * spreads.sigma_e**2
        self.order = np.argsort(model.data.group, kind="stable")
        self.starts = np.flatnonzero(np.diff(model.data.group[self.order], prepend=-1))

    def predict(self, at: Latent) -> tuple[Floats, Floats]:
        """Return mu and t of every visit."""
        data = self.model.data
        mu = at.x @ self.model.to_mu.T + at.e_mu - data.known_loss_db
        if self.groups:
            mu = mu + at.f[:, data.group]
        return mu, at.x @ self.model.to_t.T + data.noise_shift + at.e_t

    def value(self, at: Latent) -> tuple[Floats, Terms]:
        """Return log likelihood + log prior kernel (B,), and the visit terms."""
        terms = visit_terms(self.model.data, self.spreads, *self.predict(at))
        off = at.x - self.model.prior_mean
        prior = np.einsum("bg,bg->b", off, np.matmul(self.precision, off[..., None])[..., 0])
        prior += np.sum(at.e_mu**2, axis=-1) / self.own_variance
        prior += np.sum(at.e_t**2, axis=-1) / self.spreads.sigma_t**2
        if self.groups:
            prior += np.sum(at.f**2, axis=-1) / self.shared_variance
        return np.sum(terms.value, axis=-1) - 0.5 * prior, terms

    def by_group(self, values: Floats) -> Floats:
        """Return sums over the visits of each group; visits are the second axis."""
        found: Floats = np.add.reduceat(values[:, self.order], self.starts, axis=1)
        return found

    def reduce(self, terms: Terms) -> System:
        """Return the system in the globals after everything else is eliminated."""
        p_mu = 1 / self.own_variance[:, None]
        p_t = 1 / self.spreads.sigma_t[:, None] ** 2
        mm, mt, tt = terms.mu_mu + p_mu, terms.mu_t, terms.t_t + p_t
        det = mm * tt - mt**2
        inverse = (tt / det, -mt / det, mm / det)
        # reduced information P - P (K+P)^-1 P
        w_mm = p_mu - p_mu**2 * inverse[0]
        w_mt = -p_mu * p_t * inverse[1]
        w_tt = p_t - p_t**2 * inverse[2]
        gram = self.model.gram
        hessian = self.precision + gram.information(w_mm, w_mt, w_tt)
        if not self.groups:
            none = np.ones((len(mm), 0))
            return System(hessian, inverse, det, none, np.zeros((len(mm), 0, gram.size)))
        shared = 1 / self.shared_variance[:, None] + self.by_group(w_mm)
        to_shared = gram.to_shared(w_mm, w_mt)
        scaled = to_shared / shared[..., None]
        hessian = hessian - np.matmul(np.swapaxes(to_shared, 1, 2), scaled)
        return System(hessian, inverse, det, shared, to_shared)

    def step(self, at: Latent, terms: Terms) -> Latent:
        """Return the full Newton step."""
        system = self.reduce(terms)
        a_mm, a_mt, a_tt = system.inverse
        r_mu = terms.by_mu - at.e_mu / self.own_variance[:, None]
        r_t = terms.by_t - at.e_t / self.spreads.sigma_t[:, None] ** 2
        # g - K (K+P)^-1 r, visit by visit
        l_mu, l_t = a_mm * r_mu + a_mt * r_t, a_mt * r_mu + a_tt * r_t
        g_mu = terms.by_mu - terms.mu_mu * l_mu - terms.mu_t * l_t
        g_t = terms.by_t - terms.mu_t * l_mu - terms.t_t * l_t
        off = at.x - self.model.prior_mean
        gradient = (
            g_mu @ self.model.to_mu
            + g_t @ self.model.to_t
            - np.matmul(self.precision, off[..., None])[..., 0]
        )
        by_f = np.zeros_like(at.f)
        if self.groups:
            by_f = (self.by_group(g_mu) - at.f / self.shared_variance[:, None]) / system.shared
            gradient = gradient - np.matmul(by_f[:, None], system.to_shared)[:, 0]
        dx = np.linalg.solve(system.hessian, gradient[..., None])[..., 0]
        df = by_f - np.matmul(system.to_shared, dx[..., None])[..., 0] / system.shared
        d_mu, d_t = dx @ self.model.to_mu.T, dx @ self.model.to_t.T
        if self.groups:
            d_mu = d_mu + df[:, self.model.data.group]
        k_mu, k_t = terms.mu_mu * d_mu + terms.mu_t * d_t, terms.mu_t * d_mu + terms.t_t * d_t
        return Latent(dx, df, l_mu - a_mm * k_mu - a_mt * k_t, l_t - a_mt * k_mu - a_tt * k_t)

    def run(self, at: Latent) -> tuple[Latent, Terms, Floats]:
        """Return the mode, the terms there and the objective.

        Each batch row halves its own step, and is left alone once it no longer moves.
        """
        objective, terms = self.value(at)
        rows = np.arange(len(objective))
        for _ in range(_MAX_ROUNDS):
            part = self.of_rows(rows)
            here = Latent(*(one[rows] for one in at.parts()))
            moved, new_terms, new, largest = part.advance(
                here, terms.of_rows(rows), objective[rows]
            )
            gain = new - objective[rows]
            at.put(rows, moved)
            terms.put(rows, new_terms)
            objective[rows] = new
            rows = rows[
                (largest > _TOLERANCE_DB) & ((largest > _NEARLY_DB) | (gain > _TOLERANCE_GAIN))
            ]
            if not len(rows):
                break
        return at, terms, objective

    def of_rows(self, rows: NDArray[np.intp]) -> _Newton:
        """Return this for some of the batch."""
        if len(rows) == len(self.own_variance):
            return self
        part = copy(self)
        part.spreads = Spreads(*(getattr(self.spreads, f.name)[rows] for f in fields(Spreads)))
        part.precision = self.precision[rows]
        part.own_variance = self.own_variance[rows]
        part.shared_variance = self.shared_variance[rows]
        return part

    def advance(
        self, at: Latent, terms: Terms, objective: Floats
    ) -> tuple[Latent, Terms, Floats, Floats]:
        """Return everything a step further, and how long the full step was [dB]."""
        step = self.step(at, terms)
        sizes = [np.max(np.abs(part), axis=-1, initial=0.0) for part in step.parts()]
        largest = np.max(sizes, axis=0)
        scale = np.minimum(1.0, MAX_STEP_DB / np.maximum(largest, 1e-300))
        for _ in range(_MAX_HALVINGS):
            trial = at.moved(step, scale)
            new, new_terms = self.value(trial)
            worse = ~(new >= objective - 1e-9 * (1 + np.abs(objective)))
            if not np.any(worse):
                break
            scale = np.where(worse, scale / 2, scale)
        return trial, new_terms, new, np.asarray(largest)
