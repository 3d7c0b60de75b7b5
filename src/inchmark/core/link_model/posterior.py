"""What the fit answers: joint draws, and every figure as a quantile of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import ndtri

from inchmark.core.checks import Floats, fraction
from inchmark.core.interval import Estimate
from inchmark.core.link_model.data import FitData
from inchmark.core.link_model.hypers import IntegrationDesign
from inchmark.core.link_model.likelihood import Spreads
from inchmark.core.link_model.mode import Model
from inchmark.core.normal import ndtr

DRAWS = 2000
EXPONENT_FLOOR = 0.7  # a flatter draw would put the range beyond any meaning


@dataclass(frozen=True, slots=True, kw_only=True)
class Posterior:
    """Draws of everything, first axis (draws,); questions are methods."""

    data: FitData
    level: Floats  # (D, R)
    exponent: Floats  # (D,)
    penalty: Floats  # (D, C - 1)
    threshold: Floats  # (D, R)
    spreads: Spreads  # (D,)
    shadowing_db: Floats  # (D,), drawn from the smooth hyper posterior
    visit_level: Floats  # (2, V): mean and sd of the level at each visit
    visit_mode: Floats  # (2, V): mu without remainder, and t, at the mode

    def margin_difference_db(self, rig: str, against: str) -> Estimate:
        """Return how much more margin a rig has than another [dB], at one place."""
        r, a = self.data.rigs.index(rig), self.data.rigs.index(against)
        margin = self.level - self.threshold
        return summarise(margin[:, r] - margin[:, a])

    def signal_difference_db(self, rig: str, against: str) -> Estimate:
        """Return how much stronger a rig arrives [dB]; only within one module type."""
        r, a = self.data.rigs.index(rig), self.data.rigs.index(against)
        return summarise(self.level[:, r] - self.level[:, a])

    def loss_range_m(
        self, rig: str, *, loss: float = 0.1, places: float = 0.9, shift_db: float = 0.0
    ) -> Estimate | None:
        """Return the farthest distance [m] where `places` of places lose at most `loss`.

        None where losses that have nothing to do with level are above `loss` already.
        """
        fraction("loss", loss), fraction("places", places)
        r = self.data.rigs.index(rig)
        keep = (1 - loss) / (1 - self.spreads.floor)
        if float(np.median(keep)) >= 1:
            return None
        frame = self.spreads.frame_db * ndtri(np.minimum(keep, 1 - 1e-9))
        budget = self.level[:, r] - self.threshold[:, r] - shift_db - frame
        budget = budget - ndtri(places) * self.spreads.place_db
        return self._distance(budget)

    def in_hand_range_m(self, rig: str, *, in_hand_db: float = 10.0) -> Estimate:
        """Return the distance [m] where the typical level is `in_hand_db` above threshold."""
        r = self.data.rigs.index(rig)
        return self._distance(self.level[:, r] - self.threshold[:, r] - in_hand_db)

    def in_hand_db(self, rig: str, distance_m: float) -> Estimate:
        """Return the typical level above the threshold [dB] at a distance [m]."""
        return summarise(self._in_hand(rig, distance_m))

    def path_db(self, rig: str, distance_m: float) -> Estimate:
        """Return the typical level [dBm] at a distance [m]."""
        r = self.data.rigs.index(rig)
        return summarise(self.level[:, r] - self._lg(distance_m) * self.exponent)

    def kept_for_places_db(self, *, loss: float = 0.1, places: float = 0.9) -> Estimate:
        """Return the dB above the threshold that the loss rule needs at a typical place."""
        keep = np.minimum((1 - loss) / (1 - self.spreads.floor), 1 - 1e-9)
        needed = self.spreads.frame_db * ndtri(keep) + ndtri(places) * self.spreads.place_db
        return summarise(needed)

    def delivery(self, rig: str, distance_m: float) -> Estimate:
        """Return the expected share of frames heard at a random place at a distance [m]."""
        spread = np.sqrt(self.spreads.frame_db**2 + self.spreads.place_db**2)
        share = (1 - self.spreads.floor) * ndtr(self._in_hand(rig, distance_m) / spread)
        return summarise(share)

    def _in_hand(self, rig: str, distance_m: float) -> Floats:
        r = self.data.rigs.index(rig)
        return self.level[:, r] - self._lg(distance_m) * self.exponent - self.threshold[:, r]

    def _lg(self, distance_m: float) -> float:
        return float(10 * np.log10(distance_m / self.data.centre_m))

    def _distance(self, budget_db: Floats) -> Estimate:
        lg = budget_db / (10 * np.maximum(self.exponent, EXPONENT_FLOOR))
        distance = summarise(np.log10(self.data.centre_m) + lg)
        return Estimate(*(float(10.0**x) for x in (distance.estimate, distance.low, distance.high)))


def summarise(draws: Floats) -> Estimate:
    """Return median and 95 % limits of draws."""
    low, middle, high = np.quantile(draws, (0.025, 0.5, 0.975))
    return Estimate(float(middle), float(low), float(high))


def draw_posterior(
    models: Sequence[Model],
    designs: Sequence[IntegrationDesign],
    prior_weights: Sequence[float],
    *,
    random: np.random.Generator,
) -> Posterior:
    """Return joint draws from a mixture of fits, weighted by evidence times prior."""
    log_weight = np.log(prior_weights) + np.array([one.log_evidence for one in designs])
    weight = np.exp(log_weight - log_weight.max())
    weight /= weight.sum()
    counts = random.multinomial(DRAWS, weight)
    parts = [
        _draw(design, count, random) for design, count in zip(designs, counts, strict=True) if count
    ]
    x, phi, smooth = (np.concatenate(arrays) for arrays in zip(*parts, strict=True))
    best = int(np.argmax(weight))
    model, slices = models[best], models[best].slices
    return Posterior(
        data=model.data,
        level=x[:, slices["level"]],
        exponent=x[:, slices["exponent"].start],
        penalty=x[:, slices["penalty"]],
        threshold=x[:, slices["threshold"]],
        spreads=Spreads.from_hypers(phi),
        shadowing_db=np.exp(smooth[:, 0]),
        visit_level=_visit_level(model, designs[best]),
        visit_mode=_visit_mode(model, designs[best]),
    )


def _draw(
    design: IntegrationDesign, count: int, random: np.random.Generator
) -> tuple[Floats, Floats, Floats]:
    modes = design.modes
    which = random.choice(len(design.weights), size=count, p=design.weights)
    roots = np.linalg.cholesky(modes.covariance)
    noise = random.standard_normal((count, modes.x.shape[1]))
    x = modes.x[which] + np.einsum("dgh,dh->dg", roots[which], noise)
    smooth = design.mean + random.standard_normal((count, len(design.mean))) @ design.root.T
    return x, modes.phi[which], smooth


def _visit_level(model: Model, design: IntegrationDesign) -> Floats:
    """Return mean and sd of mu at each visit, lost frames counted, at the centre of the design."""
    modes, terms = design.modes, design.modes.terms
    spreads = Spreads.from_hypers(modes.phi[:1])
    p_mu, p_t = 1 / spreads.sigma_e**2, 1 / spreads.sigma_t**2
    mm, mt, tt = terms.mu_mu[0] + p_mu, terms.mu_t[0], terms.t_t[0] + p_t
    det = mm * tt - mt**2
    # u = J dx + de given x is (I - A K) J dx + noise of covariance A = (K+P)^-1, and I - A K = A P
    by_mu = (tt / det * p_mu)[:, None] * model.to_mu + (-mt / det * p_t)[:, None] * model.to_t
    variance = np.einsum("vg,gh,vh->v", by_mu, modes.covariance[0], by_mu) + tt / det
    mean = modes.x[0] @ model.to_mu.T + modes.shift_mu[0]
    return np.stack([mean, np.sqrt(variance)])


def _visit_mode(model: Model, design: IntegrationDesign) -> Floats:
    x = design.modes.x[0]
    return np.stack([x @ model.to_mu.T, x @ model.to_t.T + model.data.noise_shift])
