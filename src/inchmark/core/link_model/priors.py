"""The linear part of the model: how globals make level and threshold, and what was known of them.

Weak priors, our own choice but for the link terms: they make four stops of thirty frames finite,
and the coverage measured on invented sites with them is what vouches for them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.link_model.data import FitData, LinkPrior, Place
from inchmark.core.link_model.gram import Gram
from inchmark.core.link_model.likelihood import Spreads

PENALTY_PRIOR = (6.0, 8.0)  # dB: what a body or a box takes, from nothing to 20 dB
LEVEL_COMMON_SD_DB = 25.0  # about the level of the data: nearly flat
LEVEL_EXPECTED_SD_DB = 9.0  # about the level a budget expects, where no frame bears one
LEVEL_RIG_SD_DB = 8.0  # between rigs: antennas and powers of one study
LEVEL_RECEIVER_SD_DB = 8.0  # between receivers: place, height, antenna
LEVEL_DIRECTION_SD_DB = 6.0  # about what powers and feeds of both ends say
LEVEL_DIRECTION_RIG_SD_DB = 2.0  # from rig to rig
THRESHOLD_TYPE_SD_DB = 4.0  # about a datasheet, what RSSI scale and layout add
THRESHOLD_PAIR_SD_DB = 8.0  # replies alone: the edge is that of two receivers together
THRESHOLD_CONDUCTED_SD_DB = 1.5  # about a conducted ladder, cable and attenuators
THRESHOLD_UNIT_SD_DB = 1.0  # between units of one module, and between settings of one unit
THRESHOLD_UNKNOWN_SD_DB = 10.0  # no datasheet: centred a little under the lowest level heard
SIDE_BY_SIDE_M = 10.0  # receivers nearer to each other than this are one place
_JITTER = 1e-9
_LINK_OWN_SD_DB = 0.02  # rig, receiver and direction add up to a level; this only keeps it solvable


@dataclass(frozen=True, slots=True, kw_only=True)
class Structure:
    """What cannot be told beforehand of how places are alike; the fit mixes over several.

    Length over which shadowing fades [m]; the share of shadowing that a stop has towards every
    receiver (c); the share of a rig's remainder that both directions, and receivers side by side,
    have in common (kappa).
    """

    correlation_m: float = 0.0
    stop_share: float = 0.0
    remainder_share: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Model:
    """How globals make mu and t of each visit, and their prior."""

    data: FitData
    structure: Structure
    to_mu: Floats  # (V, G)
    to_t: Floats  # (V, G)
    gram: Gram  # their outer products
    prior_mean: Floats  # (G,)
    fixed_precision: Floats  # of level, slopes and thresholds
    fixed_log_det: float
    shadow_correlation: Floats  # (P, P)
    shadow_precision: Floats
    shadow_log_det: float  # of the precision
    shadow_own: Floats  # (P,), variance from the doubt about the distance [dB^2]
    slices: dict[str, slice]

    def precision(self, spreads: Spreads) -> tuple[Floats, Floats]:
        """Return the prior precision at hyper points (B, G, G) and its log determinant (B,)."""
        size, batch = len(self.prior_mean), len(spreads.sigma_s)
        found = np.zeros((batch, size, size))
        fixed = np.r_[self.slices["level"], self.slices["slopes"], self.slices["threshold"]]
        found[:, fixed[:, None], fixed[None, :]] = self.fixed_precision
        penalty, shadow = self.slices["penalty"], self.slices["shadow"]
        found[:, penalty, penalty], by_penalty = self._penalties(spreads)
        found[:, shadow, shadow], by_shadow = self._shadowing(spreads)
        return found, self.fixed_log_det + by_penalty + by_shadow

    def _penalties(self, spreads: Spreads) -> tuple[Floats, Floats]:
        walked = self.data.penalties
        batch = len(spreads.sigma_b)
        if not walked:
            return np.zeros((batch, 0, 0)), np.zeros(batch)
        conditions = [condition for _, condition in walked]
        same = np.array([[float(a == b) for b in conditions] for a in conditions])
        several = np.array([float(conditions.count(one) > 1) for one in conditions])
        own = spreads.sigma_b[:, None, None] ** 2 * np.diag(several)
        covariance = PENALTY_PRIOR[1] ** 2 * same + own + _JITTER * np.eye(len(walked))
        return _inverted(covariance)

    def _shadowing(self, spreads: Spreads) -> tuple[Floats, Floats]:
        variance = spreads.sigma_s**2
        if not np.any(self.shadow_own):
            precision = self.shadow_precision / variance[:, None, None]
            log_det = self.shadow_log_det - len(self.shadow_own) * np.log(variance)
            return precision, log_det
        covariance = variance[:, None, None] * self.shadow_correlation + np.diag(self.shadow_own)
        return _inverted(covariance)


def _inverted(covariance: Floats) -> tuple[Floats, Floats]:
    """Return precisions (B, n, n) and their log determinants (B,)."""
    precision: Floats = np.asarray(np.linalg.inv(covariance), dtype=np.float64)
    log_det: Floats = np.asarray(-np.linalg.slogdet(covariance)[1], dtype=np.float64)
    return precision, log_det


def build_model(data: FitData, structure: Structure | None = None) -> Model:
    """Return the linear model under a structure."""
    structure = structure or Structure()
    slices = _slices(data)
    visits, size = len(data.link), slices["shadow"].stop
    rows = np.arange(visits)
    to_mu, to_t = np.zeros((visits, size)), np.zeros((visits, size))
    to_mu[rows, data.link] = 1
    to_mu[:, slices["slopes"]] = -data.basis
    carried = data.penalty >= 0
    to_mu[rows[carried], slices["penalty"].start + data.penalty[carried]] = -1
    to_mu[rows, slices["shadow"].start + data.place] = 1
    to_t[rows, slices["threshold"].start + data.threshold_of[data.link]] = 1
    mean, covariance = _fixed_prior(data)
    all_means = np.zeros(size)
    fixed = np.r_[slices["level"], slices["slopes"], slices["threshold"]]
    all_means[fixed] = mean
    all_means[slices["penalty"]] = PENALTY_PRIOR[0]
    groups = int(data.group.max()) + 1 if visits else 0
    return Model(
        data=data,
        structure=structure,
        to_mu=to_mu,
        to_t=to_t,
        gram=Gram(to_mu, to_t, data.group, groups),
        prior_mean=all_means,
        fixed_precision=np.asarray(np.linalg.inv(covariance), dtype=np.float64),
        fixed_log_det=-float(np.linalg.slogdet(covariance)[1]),
        shadow_own=_distance_doubt(data),
        slices=slices,
        **_shadow_prior(data, structure),
    )


def under(model: Model, structure: Structure) -> Model:
    """Return a model under another structure; what it does to mu and t stays."""
    return replace(model, structure=structure, **_shadow_prior(model.data, structure))


def _shadow_prior(data: FitData, structure: Structure) -> dict[str, Any]:
    correlation = _shadow_correlation(data, structure)
    return {
        "shadow_correlation": correlation,
        "shadow_precision": np.asarray(np.linalg.inv(correlation), dtype=np.float64),
        "shadow_log_det": -float(np.linalg.slogdet(correlation)[1]),
    }


def _slices(data: FitData) -> dict[str, slice]:
    sizes = {
        "level": len(data.links),
        "slopes": data.basis.shape[1],
        "penalty": len(data.penalties),
        "threshold": len(data.thresholds),
        "shadow": len(data.places),
    }
    ends = np.cumsum(list(sizes.values())).tolist()
    return {
        name: slice(end - size, end) for (name, size), end in zip(sizes.items(), ends, strict=True)
    }


def _fixed_prior(data: FitData) -> tuple[Floats, Floats]:
    """Return mean and covariance of levels, slopes and thresholds, in this order."""
    level, slopes = _level_prior(data), (np.array(data.law.prior_mean), data.law.prior_sd)
    threshold = _threshold_prior(data)
    blocks = [level[1], np.diag(np.square(slopes[1])), threshold[1]]
    size = sum(len(block) for block in blocks)
    covariance, at = np.zeros((size, size)), 0
    for block in blocks:
        covariance[at : at + len(block), at : at + len(block)] = block
        at += len(block)
    return np.concatenate([level[0], slopes[0], threshold[0]]), covariance


def _level_prior(data: FitData) -> tuple[Floats, Floats]:
    """Return mean and covariance of the links' levels: rig, receiver and direction add up."""
    links, size = data.links, len(data.links)
    first = data.first_receiver
    usual = links[0].direction
    expected = data.data_level_dbm is None and all(
        one.expected_dbm is not None for one in data.priors
    )
    common = LEVEL_EXPECTED_SD_DB if expected else LEVEL_COMMON_SD_DB
    covariance = np.full((size, size), common**2)
    for i, a in enumerate(links):
        for j, b in enumerate(links):
            if a.rig == b.rig:
                covariance[i, j] += LEVEL_RIG_SD_DB**2
            if a.direction != b.direction:
                continue
            if a.receiver == b.receiver != first[a.direction]:
                covariance[i, j] += LEVEL_RECEIVER_SD_DB**2
            if a.direction != usual:
                covariance[i, j] += LEVEL_DIRECTION_SD_DB**2
                covariance[i, j] += LEVEL_DIRECTION_RIG_SD_DB**2 * (a.rig == b.rig)
    covariance += _LINK_OWN_SD_DB**2 * np.eye(size)
    lead = np.array([one.expected_db for one in data.priors])
    lead -= lead.mean()
    return _level_mean(data) + lead, covariance


def _level_mean(data: FitData) -> Floats:
    """Return the levels expected: that of the data, of the budget, or else at the threshold."""
    if data.data_level_dbm is not None:
        return np.full(len(data.links), data.data_level_dbm)
    return np.array(
        [
            (one.sensitivity_dbm or 0.0) if one.expected_dbm is None else one.expected_dbm
            for one in data.priors
        ]
    )


def _threshold_prior(data: FitData) -> tuple[Floats, Floats]:
    """Return mean and covariance of the thresholds.

    One shared error per module type, one of its own per module type, setting and unit.
    """
    size = len(data.thresholds)
    mean, covariance = np.zeros(size), THRESHOLD_UNIT_SD_DB**2 * np.eye(size)
    for i, one in enumerate(data.thresholds):
        known = one.prior.sensitivity_dbm
        mean[i] = _under_the_lowest(data, one.links) if known is None else known
        for j, other in enumerate(data.thresholds):
            if i == j or _share_an_error(one.prior, other.prior):
                covariance[i, j] += _shared_sd(one.prior) ** 2
    return mean, covariance * data.threshold_doubt**2


def _under_the_lowest(data: FitData, links: tuple[int, ...]) -> float:
    if data.data_level_dbm is None:
        return float(np.mean(_level_mean(data)))
    own = data.lowest_heard_dbm[list(links)]
    lowest = data.lowest_heard_dbm if not np.any(np.isfinite(own)) else own
    return float(np.nanmin(lowest)) - 3


def _share_an_error(one: LinkPrior, other: LinkPrior) -> bool:
    return (
        one.module_type == other.module_type != ""
        and None not in (one.sensitivity_dbm, other.sensitivity_dbm)
        and (one.conducted, one.pair) == (other.conducted, other.pair)
    )


def _shared_sd(prior: LinkPrior) -> float:
    if prior.sensitivity_dbm is None:
        return THRESHOLD_UNKNOWN_SD_DB
    if prior.pair:
        return THRESHOLD_PAIR_SD_DB
    return THRESHOLD_CONDUCTED_SD_DB if prior.conducted else THRESHOLD_TYPE_SD_DB


def _shadow_correlation(data: FitData, structure: Structure) -> Floats:
    """Return R_stops o R_receivers, and of it the share that a stop has towards every receiver."""
    size, length, places = len(data.places), structure.correlation_m, data.places
    names = [one.stop for one in places]
    stops = _alike(_spots([one.spot for one in places], _lines(places)), names, length)
    ends = [one.receiver_place for one in places]
    apart = _spots([one.receiver_spot for one in places], None)
    receivers = _alike(apart, ends, length)
    c = structure.stop_share
    correlation: Floats = (1 - c) * stops * receivers + c * stops + _JITTER * np.eye(size)
    return correlation


def _alike(spots: Floats | None, names: Sequence[str], length_m: float) -> Floats:
    """Return how alike places are, by the metres between them; those of one name are one place."""
    same = np.array([[float(a == b) for b in names] for a in names])
    if length_m <= 0 or spots is None:
        return same
    first = [names.index(name) for name in names]
    at = spots[first]  # of one name, one spot, so that what follows is a correlation
    apart = np.sqrt(np.sum((at[:, None] - at[None, :]) ** 2, axis=-1))
    found: Floats = np.exp(-apart / length_m)
    return np.where(same > 0, 1.0, found)


def _lines(places: Sequence[Place]) -> Floats:
    """Return stops as points on a line, by their mean distance, where coordinates are unknown."""
    means: dict[str, list[float]] = {}
    for one in places:
        means.setdefault(one.stop, []).append(one.distance_m)
    return np.array([[float(np.mean(means[one.stop]))] for one in places])


def _spots(spots: Sequence[tuple[float, float] | None], otherwise: Floats | None) -> Floats | None:
    if any(one is None for one in spots):
        return otherwise
    return np.array(spots, dtype=np.float64)


def _distance_doubt(data: FitData) -> Floats:
    """Return what the doubt about a place's distance adds to its shadowing [dB^2]."""
    slopes = data.law.prior_mean[:-1] if data.law.walled else data.law.prior_mean
    slope = max(sum(slopes), 2.0)
    share = np.array([one.distance_sd_m / one.distance_m for one in data.places])
    variance: Floats = (10 * slope / np.log(10) * share) ** 2
    return variance
