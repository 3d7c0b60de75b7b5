"""The hyper parameters: prior, mode by quasi-Newton, and a design of points to integrate over."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.link_model.data import FitData
from inchmark.core.link_model.likelihood import HYPERS
from inchmark.core.link_model.mode import Mode, Model, find_mode

# ln scale for the spreads, logit scale for the floor: (mean, sd), weak on purpose
PRIOR_MEAN = np.array([np.log(5.5), np.log(2), np.log(3), np.log(1.2), np.log(0.01 / 0.99), 0.0])
PRIOR_SD = np.array([0.6, 0.5, 0.5, 0.4, 1.0, 0.6])
_GRADIENT_STEP, _HESSIAN_STEP = 0.04, 0.15
_DESIGN_RADIUS = 1.1  # times sqrt(H); Rue et al. 2009
_CLIP = 2.5  # largest departure of an evidence from the Gaussian
RUNAWAY_SD = 12.0  # tried by the search in passing; farther out it does not come back
FARTHEST_SD = 5.0  # from a prior's mean; beyond it no radio and no place is described any more
CONTRADICTION = "Counts and levels contradict each other so far that no link model fits them: frames are lost far above any threshold. Look for a wrong count, a wrong distance or levels of another rig."


@dataclass(slots=True)
class IntegrationDesign:
    """Hyper points with their weights (points,), the modes there, and the Gaussian around."""

    modes: Mode
    weights: Floats
    log_evidence: float  # of the whole model, for mixing
    mean: Floats  # (6,)
    root: Floats  # (6, 6), phi = mean + root z


def start_point(data: FitData) -> Floats:
    """Return prior means, with the frame spread at the pooled spread inside visits."""
    start = PRIOR_MEAN.copy()
    freedom = np.sum(np.maximum(data.exact - 1, 0))
    if freedom > 0:
        pooled = np.sqrt(np.sum(data.exact_squares) / freedom)
        start[2] = np.log(np.clip(pooled, 0.5, 12))
    return start


class NoFitError(ValueError):
    """The data are such that no fit is found; the message is a sentence for the user."""


def explore(model: Model, near: Floats | None = None) -> IntegrationDesign:
    """Return the integration design around the mode of the hypers.

    Looked for `near` a point (6,).

    Raises
    ------
    NoFitError
        Nowhere within reason of the priors do the data make sense.
    """
    start = start_point(model.data) if near is None else near
    try:
        return _design(model, start)
    except np.linalg.LinAlgError:
        raise NoFitError(CONTRADICTION) from None


def _design(model: Model, start: Floats) -> IntegrationDesign:
    surface = _Surface(model)
    best = _best(surface, start)
    hessian = surface.hessian(best)
    if not np.all(np.isfinite(hessian)):
        raise NoFitError(CONTRADICTION)
    values, vectors = np.linalg.eigh(hessian)
    values = np.maximum(values, 0.5 * np.min(1 / PRIOR_SD**2))
    root = vectors / np.sqrt(values)
    points = _central_composite(len(HYPERS))
    phi = best + points @ root.T
    modes = find_mode(model, phi, surface.warm)
    evidence = modes.log_evidence + _log_prior(phi)
    squares = np.sum(points**2, axis=1)
    departure = np.clip(evidence - evidence[0] + 0.5 * squares, -_CLIP, _CLIP)
    sphere = 1 / ((len(points) - 1) * _DESIGN_RADIUS**2)
    weights = np.where(squares == 0, 1 - 1 / _DESIGN_RADIUS**2, sphere) * np.exp(departure)
    log_evidence = evidence[0] - 0.5 * np.sum(np.log(values)) + np.log(np.sum(weights))
    return IntegrationDesign(modes, weights / np.sum(weights), float(log_evidence), best, root)


def _best(surface: _Surface, start: Floats) -> Floats:
    """Return the most likely hypers.

    Where counts and levels contradict each other an unbounded search runs away to spreads of
    thousands of dB; it is then made again within `FARTHEST_SD` of the priors.
    """
    found = _unbounded(surface, start)
    if found is not None and np.all(np.abs(found - PRIOR_MEAN) <= FARTHEST_SD * PRIOR_SD):
        return found
    low, high = PRIOR_MEAN - FARTHEST_SD * PRIOR_SD, PRIOR_MEAN + FARTHEST_SD * PRIOR_SD
    surface.warm = None
    from scipy.optimize import minimize  # a third of a second; only fits need it

    bounded: Floats = minimize(
        surface.value_and_gradient,
        np.clip(start, low, high),
        jac=True,
        method="L-BFGS-B",
        bounds=list(zip(low, high, strict=True)),
        options={"maxiter": 60},
    ).x
    return bounded


class _RanAwayError(Exception):
    pass


def _unbounded(surface: _Surface, start: Floats) -> Floats | None:
    from scipy.optimize import minimize

    def near_by(phi: Floats) -> tuple[float, Floats]:
        if np.any(np.abs(phi - PRIOR_MEAN) > RUNAWAY_SD * PRIOR_SD):
            raise _RanAwayError
        return surface.value_and_gradient(phi)

    try:
        with np.errstate(all="ignore"):
            found: Floats = minimize(
                near_by,
                start,
                jac=True,
                method="BFGS",
                options={"gtol": 0.02, "maxiter": 40},
            ).x
    except (np.linalg.LinAlgError, _RanAwayError):
        return None
    return found


def _central_composite(size: int) -> Floats:
    """Return centre, 2H axial and 2^(H-1) half-fraction points.

    All but the centre on one sphere.
    """
    radius = _DESIGN_RADIUS * np.sqrt(size)
    axial = np.concatenate([radius * np.eye(size), -radius * np.eye(size)])
    corners = np.array([c for c in product((-1.0, 1.0), repeat=size) if np.prod(c) > 0])
    return np.concatenate([np.zeros((1, size)), axial, _DESIGN_RADIUS * corners])


def _log_prior(phi: Floats) -> Floats:
    density: Floats = -0.5 * np.sum(((phi - PRIOR_MEAN) / PRIOR_SD) ** 2, axis=-1)
    return density - float(np.sum(np.log(PRIOR_SD)))


class _Surface:
    """The log posterior of the hypers, evaluated in batches from the last mode."""

    def __init__(self, model: Model) -> None:
        self.model = model
        self.warm: Mode | None = None

    def log_posterior(self, phi: Floats) -> Floats:
        modes = find_mode(self.model, phi, self.warm)
        self.warm = Mode(
            phi[:1],
            modes.x[:1],
            modes.shift_mu[:1],
            modes.shift_t[:1],
            modes.log_evidence[:1],
            modes.covariance[:1],
            modes.terms,
        )
        return modes.log_evidence + _log_prior(phi)

    def value_and_gradient(self, phi: Floats) -> tuple[float, Floats]:
        moves = _GRADIENT_STEP * np.eye(len(phi))
        values = self.log_posterior(np.concatenate([phi[None], phi + moves, phi - moves]))
        up, down = values[1 : len(phi) + 1], values[len(phi) + 1 :]
        return -float(values[0]), -(up - down) / (2 * _GRADIENT_STEP)

    def hessian(self, phi: Floats) -> Floats:
        size, moves = len(phi), _HESSIAN_STEP * np.eye(len(phi))
        pairs = [(i, j) for i in range(size) for j in range(i)]
        points = [phi, *(phi + moves), *(phi - moves)]
        points += [phi + moves[i] + moves[j] for i, j in pairs]
        points += [phi - moves[i] - moves[j] for i, j in pairs]
        value = -self.log_posterior(np.array(points))
        up, down = value[1 : size + 1], value[size + 1 : 2 * size + 1]
        both_up = value[2 * size + 1 : 2 * size + 1 + len(pairs)]
        both_down = value[2 * size + 1 + len(pairs) :]
        hessian = np.diag(up - 2 * value[0] + down)
        for k, (i, j) in enumerate(pairs):
            mixed = both_up[k] + both_down[k] + 2 * value[0] - up[i] - up[j] - down[i] - down[j]
            hessian[i, j] = hessian[j, i] = mixed / 2
        return hessian / _HESSIAN_STEP**2
