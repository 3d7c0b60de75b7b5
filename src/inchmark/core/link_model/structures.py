"""How places are alike is not known beforehand: fits under several structures, mixed by evidence.

Shadowing may be independent from stop to stop or fade over 30 or 100 m; a stop may have a part of
it towards every receiver; directions and receivers side by side may share a rig's remainder.
"""

from __future__ import annotations

from itertools import product

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.link_model.data import FitData
from inchmark.core.link_model.hypers import IntegrationDesign, explore, peek
from inchmark.core.link_model.priors import Model, Structure, build_model, under

LENGTHS_M = {0.0: 0.5, 30.0: 0.3, 100.0: 0.2}  # correlation length -> prior
STOP_SHARES = {0.0: 0.5, 0.5: 0.5}
REMAINDER_SHARES = {0.0: 0.5, 0.8: 0.5}
WORTH_FITTING = 0.01  # of the weight by a first look; less moves no answer


def structures_for(data: FitData) -> dict[Structure, float]:
    """Return the structures the data could tell apart, with their priors."""
    lengths = LENGTHS_M if len({one.stop for one in data.places}) > 1 else {0.0: 1.0}
    stops = STOP_SHARES if data.several_places else {0.0: 1.0}
    remainders = REMAINDER_SHARES if data.shares_groups else {0.0: 1.0}
    return {
        Structure(correlation_m=length, stop_share=c, remainder_share=kappa): a * b * k
        for (length, a), (c, b), (kappa, k) in product(
            lengths.items(), stops.items(), remainders.items()
        )
    }


def explore_all(
    data: FitData, *, only: Structure | None = None
) -> tuple[list[IntegrationDesign], Floats]:
    """Return the designs of the structures worth fitting, with their weights.

    Raises
    ------
    NoFitError
        Nowhere within reason of the priors do the data make sense.
    """
    priors = structures_for(data) if only is None else {only: 1.0}
    first = max(priors, key=lambda one: (one.remainder_share, one.stop_share, -one.correlation_m))
    base = build_model(data, first)
    fitted = {first: explore(base)}
    if len(priors) > 1:
        _explore_others(base, priors, first, fitted)
    log_weight = np.array([np.log(priors[s]) + d.log_evidence for s, d in fitted.items()])
    weight = np.exp(log_weight - log_weight.max())
    return list(fitted.values()), weight / weight.sum()


def _explore_others(
    base: Model,
    priors: dict[Structure, float],
    first: Structure,
    fitted: dict[Structure, IntegrationDesign],
) -> None:
    """Fit what a first look says could matter."""
    like = fitted[first]
    models = {one: under(base, one) for one in priors if one != first}
    seen = {one: peek(model, like) for one, model in models.items()}
    score = {one: np.log(priors[one]) + evidence for one, (evidence, _) in seen.items()}
    score[first] = np.log(priors[first]) + like.log_evidence
    best = max(score.values())
    for one, model in models.items():
        if score[one] - best > np.log(WORTH_FITTING):
            fitted[one] = explore(model, seen[one][1], like)
