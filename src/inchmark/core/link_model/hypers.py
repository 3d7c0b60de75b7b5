"""The hyper parameters: prior, mode by quasi-Newton, and a design of points to integrate over."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.link_model.data import FitData
from inchmark.core.link_model.likelihood import USUAL_PENALTY_SPREAD_DB
from inchmark.core.link_model.mode import Latent, Mode, find_mode
from inchmark.core.link_model.priors import Model

# ln scale for the spreads, logit scale for the floor: (mean, sd), weak on purpose. The last is
# there only where a condition was walked with two rigs or more.
PRIOR_MEAN = np.array(
    [
        *(np.log(5.5), np.log(2), np.log(3), np.log(1.2), np.log(0.01 / 0.99), 0.0),
        np.log(USUAL_PENALTY_SPREAD_DB),
    ]
)
PRIOR_SD = np.array([0.6, 0.5, 0.5, 0.4, 1.0, 0.6, 0.8])
_GRADIENT_STEP, _HESSIAN_STEP = 0.04, 0.15
_DESIGN_RADIUS = 1.1  # times sqrt(H); Rue et al. 2009
_CLIP = 2.5  # largest departure of an evidence from the Gaussian
_DECREMENT = 2e-3  # of the log evidence; nearer to its top no answer moves
_SCALES = np.array([1.0, 0.5, 0.25, 0.06])  # of a step, tried in one batch
_MOST_STEPS = 25
_NEAR_ENOUGH = 0.05  # in units of the posterior's own spread: the curvature is the same there
_LONGEST_STEP_SD = 2.0
FARTHEST_SD = 5.0  # from a prior's mean; beyond it no radio and no place is described any more
CONTRADICTION = "Counts and levels contradict each other so far that no link model fits them: frames are lost far above any threshold. Look for a wrong count, a wrong distance or levels of another rig."


@dataclass(slots=True)
class IntegrationDesign:
    """Hyper points with their weights (points,), the modes there, and the Gaussian around."""

    model: Model
    modes: Mode
    weights: Floats
    log_evidence: float  # of the whole model, for mixing
    mean: Floats  # (H,)
    root: Floats  # (H, H), phi = mean + root z
    hessian: Floats


class NoFitError(ValueError):
    """The data are such that no fit is found; the message is a sentence for the user."""


def hyper_count(data: FitData) -> int:
    """Return how many hyper parameters the data call for."""
    return 7 if data.penalties_differ else 6


def start_point(data: FitData) -> Floats:
    """Return prior means, with the frame spread at the pooled spread inside visits."""
    start = PRIOR_MEAN[: hyper_count(data)].copy()
    freedom = np.sum(np.maximum(data.exact - 1, 0))
    if freedom > 0:
        pooled = np.sqrt(np.sum(data.exact_squares) / freedom)
        start[2] = np.log(np.clip(pooled, 0.5, 12))
    return start


def explore(
    model: Model, near: Floats | None = None, like: IntegrationDesign | None = None
) -> IntegrationDesign:
    """Return the integration design around the mode of the hypers.

    Looked for `near` a point (H,), with the curvature of a design of a model much `like` it.

    Raises
    ------
    NoFitError
        Nowhere within reason of the priors do the data make sense.
    """
    start = start_point(model.data) if near is None else near
    try:
        with np.errstate(all="ignore"):
            return _design(model, start, like)
    except np.linalg.LinAlgError:
        raise NoFitError(CONTRADICTION) from None


def peek(model: Model, like: IntegrationDesign) -> tuple[float, Floats]:
    """Return a model's log evidence as it would be near a design of one much like it, and where.

    One gradient: the top is guessed with the other's curvature.
    """
    surface = Surface(model, like.modes.latent)
    with np.errstate(all="ignore"):
        value, gradient, _ = surface.gradient(like.mean)
        step: Floats = np.asarray(np.linalg.solve(like.hessian, gradient), dtype=np.float64)
        move = _held(like.mean, step)
    shape = like.log_evidence - surface_value(like)
    found = value + 0.5 * float(gradient @ move) + shape
    return (found if np.isfinite(found) else -np.inf), like.mean + move


def surface_value(design: IntegrationDesign) -> float:
    """Return the log posterior of the hypers at the centre of a design."""
    centre = design.modes.log_evidence[0] + _log_prior(design.modes.phi[:1])[0]
    return float(centre)


def _design(model: Model, start: Floats, like: IntegrationDesign | None) -> IntegrationDesign:
    surface = Surface(model, like.modes.latent if like else None)
    best, hessian = _best(surface, start, like.hessian if like else None)
    if hessian is None:
        hessian = _floored(surface.hessian(best))
    values, vectors = np.linalg.eigh(hessian)
    root = vectors / np.sqrt(values)
    points = _central_composite(len(best))
    phi = best + points @ root.T
    modes = find_mode(model, phi, surface.warm)
    evidence = modes.log_evidence + _log_prior(phi)
    if not np.isfinite(evidence[0]):
        raise NoFitError(CONTRADICTION)
    squares = np.sum(points**2, axis=1)
    departure = np.clip(evidence - evidence[0] + 0.5 * squares, -_CLIP, _CLIP)
    departure = np.where(np.isfinite(departure), departure, -_CLIP)
    sphere = 1 / ((len(points) - 1) * _DESIGN_RADIUS**2)
    weights = np.where(squares == 0, 1 - 1 / _DESIGN_RADIUS**2, sphere) * np.exp(departure)
    log_evidence = evidence[0] - 0.5 * np.sum(np.log(values)) + np.log(np.sum(weights))
    return IntegrationDesign(
        model, modes, weights / np.sum(weights), float(log_evidence), best, root, hessian
    )


def _best(surface: Surface, start: Floats, metric: Floats | None) -> tuple[Floats, Floats | None]:
    """Return the most likely hypers, and the curvature there if it was found on the way.

    Quasi-Newton: the first metric is the diagonal of the central differences, then the whole
    Hessian once the top is near.
    """
    phi, whole, taken_at = start.copy(), metric, None
    for turn in range(_MOST_STEPS):
        value, gradient, diagonal = surface.gradient(phi)
        if not np.isfinite(value):
            raise NoFitError(CONTRADICTION)
        if whole is None and turn >= 2:
            whole, taken_at = _floored(surface.hessian(phi)), phi
        here = np.diag(np.maximum(diagonal, 0.5 / PRIOR_SD[: len(phi)] ** 2))
        step = _held(phi, np.linalg.solve(here if whole is None else whole, gradient))
        if float(gradient @ step) < _DECREMENT:
            break
        phi, moved = surface.climb(phi, step, value)
        if not moved and metric is None:
            break
        if not moved:  # the other model's curvature misleads here
            metric, whole = None, None
    if taken_at is not None and whole is not None:
        away = phi - taken_at
        return phi, whole if float(away @ whole @ away) < _NEAR_ENOUGH else None
    return phi, metric


def _floored(hessian: Floats) -> Floats:
    """Return the Hessian with its eigenvalues at half the smallest prior precision or more."""
    if not np.all(np.isfinite(hessian)):
        raise NoFitError(CONTRADICTION)
    values, vectors = np.linalg.eigh(hessian)
    least = 0.5 * np.min(1 / PRIOR_SD[: len(hessian)] ** 2)
    found: Floats = (vectors * np.maximum(values, least)) @ vectors.T
    return found


def _held(phi: Floats, step: Floats) -> Floats:
    """Return a step no longer than sense allows, that ends within reason of the priors.

    Where counts and levels contradict each other an unbounded search runs away to spreads of
    thousands of dB.
    """
    mean, sd = PRIOR_MEAN[: len(phi)], PRIOR_SD[: len(phi)]
    longest = float(np.max(np.abs(step) / sd))
    step = step * min(1.0, _LONGEST_STEP_SD / max(longest, 1e-12))
    low, high = mean - FARTHEST_SD * sd, mean + FARTHEST_SD * sd
    held: Floats = np.clip(phi + step, low, high) - phi
    return held


def _central_composite(size: int) -> Floats:
    """Return centre, 2H axial and 2^(H-1) half-fraction points.

    All but the centre on one sphere.
    """
    radius = _DESIGN_RADIUS * np.sqrt(size)
    axial = np.concatenate([radius * np.eye(size), -radius * np.eye(size)])
    corners = np.array([c for c in product((-1.0, 1.0), repeat=size) if np.prod(c) > 0])
    return np.concatenate([np.zeros((1, size)), axial, _DESIGN_RADIUS * corners])


def _log_prior(phi: Floats) -> Floats:
    size = phi.shape[-1]
    off = (phi - PRIOR_MEAN[:size]) / PRIOR_SD[:size]
    density: Floats = -0.5 * np.sum(off**2, axis=-1)
    return density - float(np.sum(np.log(PRIOR_SD[:size])))


class Surface:
    """The log posterior of the hypers, evaluated in batches from the last mode."""

    def __init__(self, model: Model, warm: Latent | None = None) -> None:
        """Begin from a mode of a model much like this one, if there is one."""
        self.model, self.warm = model, warm

    def log_posterior(self, phi: Floats) -> Floats:
        """Return it at points (B, H)."""
        modes = find_mode(self.model, phi, self.warm)
        found = modes.log_evidence + _log_prior(phi)
        if np.isfinite(found[0]):
            self.warm = modes.latent.first(1)
        return np.where(np.isfinite(found), found, -np.inf)

    def gradient(self, phi: Floats) -> tuple[float, Floats, Floats]:
        """Return value, gradient and the diagonal of the negative Hessian by central differences."""
        size, moves = len(phi), _GRADIENT_STEP * np.eye(len(phi))
        values = self.log_posterior(np.concatenate([phi[None], phi + moves, phi - moves]))
        up, down = values[1 : size + 1], values[size + 1 :]
        bend = -(up + down - 2 * values[0]) / _GRADIENT_STEP**2
        return float(values[0]), (up - down) / (2 * _GRADIENT_STEP), bend

    def climb(self, phi: Floats, step: Floats, value: float) -> tuple[Floats, bool]:
        """Return the best of several shares of a step, and whether any is better."""
        tried = phi + _SCALES[:, None] * step
        values = self.log_posterior(tried)
        best = int(np.argmax(values))
        return (tried[best], True) if values[best] > value else (phi, False)

    def hessian(self, phi: Floats) -> Floats:
        """Return the negative Hessian by differences of two points at a time."""
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
        found: Floats = hessian / _HESSIAN_STEP**2
        return found
