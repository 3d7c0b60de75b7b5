"""What the fit answers: joint draws, and every figure as a quantile of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.interval import Estimate
from inchmark.core.link_model.data import FitData, LinkKey
from inchmark.core.link_model.hypers import IntegrationDesign
from inchmark.core.link_model.law import SLOPE
from inchmark.core.link_model.likelihood import Spreads
from inchmark.core.link_model.priors import Model

DRAWS = 2000


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitLevels:
    """What the fit says of each visit, shape (V,) each, lost frames counted.

    Mean and standard deviation of the level [dBm], threshold there [dBm], level without the
    visit's own remainder [dBm], information of its frames on its level [1/dB^2], the share of it
    the remainder leaves, how likely its losses are the study's usual ones.
    """

    mean_dbm: Floats
    sd_db: Floats
    threshold_dbm: Floats
    expected_dbm: Floats
    information: Floats
    own_share: Floats
    own_floor: Floats


@dataclass(frozen=True, slots=True, kw_only=True)
class Centre:
    """The likeliest fit at its centre: globals, their covariance, spreads, doubt about ln sigma_s."""

    model: Model
    x: Floats
    covariance: Floats
    spreads: Spreads  # (1,)
    ln_sigma_s_sd: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Posterior:
    """Draws of everything, first axis (draws,)."""

    data: FitData
    level: Floats  # (D, L)
    slopes: Floats  # (D, K)
    penalty: Floats  # (D, P), by rig and condition
    threshold: Floats  # (D, L)
    shadow: Floats  # (D, places)
    spreads: Spreads  # (D,)
    remainder_share: Floats  # (D,), kappa
    correlation_m: Floats  # (D,), over how many metres shadowing fades in the draw's structure
    shadowing_db: Floats  # (D,), drawn from the smooth hyper posterior
    visits: VisitLevels
    centre: Centre

    def index(self, link: LinkKey) -> int:
        """Return the column of a link."""
        return self.data.links.index(link)

    @property
    def exponent(self) -> Floats:
        """Return the path-loss exponent; over the walked distances where there is no one slope.

        Beside walls it is that of the path without them.
        """
        if self.data.law.kind == SLOPE:
            return self.slopes[:, 0]
        d = [one.distance_m for one in self.data.places]
        low, high = min(d), max(d)
        if high <= low:
            return self.slopes[:, 0]
        rise = self._bare_db(high) - self._bare_db(low)
        exponent: Floats = rise / (10 * np.log10(high / low))
        return exponent

    def loss_db(self, distance_m: float) -> Floats:
        """Return what the path loses at a distance more than at the centre (D,) [dB]."""
        law, centre = self.data.law, self.data.centre_m
        basis = law.basis(np.array(distance_m), centre)
        found: Floats = self.slopes @ basis + law.known_db(np.array(distance_m), centre)
        return found

    def of_rig(self, rig: str) -> Posterior:
        """Return the draws with the walls by distance as a rig's frequency has them."""
        law = self.data.law.of_rig(rig)
        if law is self.data.law:
            return self
        return replace(self, data=replace(self.data, law=law))

    def _bare_db(self, distance_m: float) -> Floats:
        """Return the loss without walls (D,) [dB]."""
        if self.wall_factor is None:
            return self.loss_db(distance_m)
        walls = self.data.law.walls_along_db(np.array(distance_m))
        found: Floats = self.loss_db(distance_m) - self.wall_factor * walls
        return found

    @property
    def wall_factor(self) -> Floats | None:
        """Return what walls cost against what is said of them (D,); None where none are counted."""
        return self.slopes[:, -1] if self.data.law.walled else None

    def penalty_of(self, rig: str, condition: str) -> Floats:
        """Return what a condition costs a rig (D,) [dB]; 0 in the reference condition.

        A rig not walked in it takes what the others lost there, on average.
        """
        conditions = self.data.conditions
        if condition in ("", conditions[0]):
            return np.zeros(len(self.slopes))
        walked = self.data.penalties
        if (rig, condition) in walked:
            return self.penalty[:, walked.index((rig, condition))]
        others = [i for i, (_, name) in enumerate(walked) if name == condition]
        return np.asarray(self.penalty[:, others].mean(axis=1), dtype=np.float64)

    def margin(self, link: LinkKey, condition: str = "") -> Floats:
        """Return level less threshold at the centre distance (D,) [dB]."""
        i = self.index(link)
        found: Floats = self.level[:, i] - self.threshold[:, i]
        return found - self.penalty_of(link.rig, condition)

    def margin_difference_db(
        self, link: LinkKey, against: LinkKey, condition: str = ""
    ) -> Estimate:
        """Return how much more margin a link has than another [dB], at one place."""
        return summarise(self.margin(link, condition) - self.margin(against, condition))

    def signal_difference_db(
        self, link: LinkKey, against: LinkKey, condition: str = ""
    ) -> Estimate:
        """Return how much stronger a link arrives [dB]; only on one RSSI scale."""
        levels = [
            self.level[:, self.index(one)] - self.penalty_of(one.rig, condition)
            for one in (link, against)
        ]
        return summarise(levels[0] - levels[1])

    def path_db(self, link: LinkKey, distance_m: float) -> Estimate:
        """Return the typical level [dBm] at a distance [m]."""
        loss = self.of_rig(link.rig).loss_db(distance_m)
        return summarise(self.level[:, self.index(link)] - loss)


def summarise(draws: Floats) -> Estimate:
    """Return median and 95 % limits of draws."""
    low, middle, high = np.quantile(draws, (0.025, 0.5, 0.975))
    return Estimate(float(middle), float(low), float(high))


def draw_posterior(
    designs: Sequence[IntegrationDesign], weight: Floats, *, random: np.random.Generator
) -> Posterior:
    """Return joint draws from a mixture of fits, by their weights."""
    counts = random.multinomial(DRAWS, weight)
    parts = [
        _draw(design, count, random) for design, count in zip(designs, counts, strict=True) if count
    ]
    x, phi, smooth, kappa, length = (np.concatenate(arrays) for arrays in zip(*parts, strict=True))
    best = designs[int(np.argmax(weight))]
    model, slices = best.model, best.model.slices
    return Posterior(
        data=model.data,
        level=x[:, slices["level"]],
        slopes=x[:, slices["slopes"]],
        penalty=x[:, slices["penalty"]],
        threshold=x[:, slices["threshold"]][:, model.data.threshold_of],
        shadow=x[:, slices["shadow"]],
        spreads=Spreads.from_hypers(phi),
        remainder_share=kappa,
        correlation_m=length,
        shadowing_db=np.exp(smooth[:, 0]),
        visits=_visit_levels(best),
        centre=Centre(
            model=model,
            x=best.modes.x[0],
            covariance=best.modes.covariance[0],
            spreads=Spreads.from_hypers(best.modes.phi[:1]),
            ln_sigma_s_sd=float(np.sqrt(np.sum(best.root[0] ** 2))),
        ),
    )


def _draw(
    design: IntegrationDesign, count: int, random: np.random.Generator
) -> tuple[Floats, Floats, Floats, Floats, Floats]:
    modes = design.modes
    which = random.choice(len(design.weights), size=count, p=design.weights)
    roots = np.linalg.cholesky(modes.covariance)
    noise = random.standard_normal((count, modes.x.shape[1]))
    x = modes.x[which] + np.einsum("dgh,dh->dg", roots[which], noise)
    smooth = design.mean + random.standard_normal((count, len(design.mean))) @ design.root.T
    kappa = np.full(count, design.model.structure.remainder_share)
    length = np.full(count, design.model.structure.correlation_m)
    return x, modes.phi[which], smooth, kappa, length


def _visit_levels(design: IntegrationDesign) -> VisitLevels:
    """Return what the centre of a design says of each visit."""
    model, modes, data = design.model, design.modes, design.model.data
    terms, system = modes.terms, modes.system
    spreads = Spreads.from_hypers(modes.phi[:1])
    kappa = model.structure.remainder_share
    p_mu, p_t = 1 / ((1 - kappa) * spreads.sigma_e**2), 1 / spreads.sigma_t**2
    mm, mt, tt = terms.mu_mu[0] + p_mu, terms.mu_t[0], terms.t_t[0] + p_t
    det = mm * tt - mt**2
    to_mu, more = model.to_mu, np.zeros(len(data.link))
    mean = modes.x[0] @ model.to_mu.T - data.known_loss_db
    expected = mean.copy()
    if modes.latent.f.shape[1]:
        # the shared remainder is what the globals leave of it, and a spread of its own
        pull = system.to_shared[0] / system.shared[0][:, None]
        to_mu = model.to_mu - pull[data.group]
        more = 1 / system.shared[0][data.group]
        mean = mean + modes.latent.f[0][data.group]
    # u = J dx + de given x is (I - A K) J dx + noise of covariance A = (K+P)^-1, and I - A K = A P
    of_mu, of_t = tt / det * p_mu, -mt / det * p_t
    by_mu = of_mu[:, None] * to_mu + of_t[:, None] * model.to_t
    variance = np.einsum("vg,gh,vh->v", by_mu, modes.covariance[0], by_mu)
    variance += of_mu**2 * more + tt / det
    information = terms.mu_mu[0]
    floor = np.einsum("b,bv->v", design.weights, terms.own_floor)
    return VisitLevels(
        mean_dbm=mean + modes.latent.e_mu[0],
        sd_db=np.sqrt(variance),
        threshold_dbm=modes.x[0] @ model.to_t.T + data.noise_shift,
        expected_dbm=expected,
        information=information,
        own_share=information / (information + 1 / spreads.sigma_e**2),
        own_floor=floor,
    )
