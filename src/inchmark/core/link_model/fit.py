"""The whole fit: look for a clip, fit under every structure worth it, draw."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.link_model.data import FitVisit, LinkKey, LinkPrior, build_fit_data
from inchmark.core.link_model.law import ONE_SLOPE, PathLaw
from inchmark.core.link_model.posterior import Posterior, draw_posterior
from inchmark.core.link_model.priors import Structure
from inchmark.core.link_model.screening import clip_level_dbm, reading_step_db
from inchmark.core.link_model.structures import explore_all

OFTEN_DISTURBED, LEAST_UNDISTURBED = 0.25, 0.4  # shares of visits
DISTURBED_BELOW = 0.1  # how likely a visit's losses are the usual ones, to be called disturbed


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """A posterior with what was found out on the way to it."""

    posterior: Posterior
    visits: tuple[FitVisit, ...]
    clip_dbm: float | None
    step_db: float
    log_evidence: float
    structure: Structure  # the likeliest
    interfered: tuple[int, ...]  # visits whose losses level does not explain


def fit_link_model(
    visits: Sequence[FitVisit],
    priors: Mapping[LinkKey, LinkPrior],
    *,
    random: np.random.Generator,
    reference_noise_dbm: float | None = None,
    reference_condition: str | None = None,
    receivers: Sequence[str] = (),
    law: PathLaw = ONE_SLOPE,
    only: Structure | None = None,
    threshold_doubt: float = 1.0,
    step_db: float | None = None,
) -> Fit:
    """Return the fitted link model.

    `only` fits under one structure, `threshold_doubt` widens what is known of thresholds by a
    factor: both to see what moves the answer.

    Raises
    ------
    NoFitError
        The data contradict each other so far that nothing fits them.
    """
    step = step_db or reading_step_db(visits)
    clip = clip_level_dbm(visits, step)
    data = build_fit_data(
        visits,
        priors,
        clip_dbm=clip,
        step_db=step,
        reference_noise_dbm=reference_noise_dbm,
        reference_condition=reference_condition,
        receivers=receivers,
        law=law,
        threshold_doubt=threshold_doubt,
    )
    designs, weight = explore_all(data, only=only)
    posterior = draw_posterior(designs, weight, random=random)
    hit = 1 - float(np.mean(posterior.visits.own_floor))
    if hit > OFTEN_DISTURBED:  # so much interference is the site's way, no rare mishap
        data = replace(data, own_floor_share=max(1 - hit, LEAST_UNDISTURBED))
        designs, weight = explore_all(data, only=only)
        posterior = draw_posterior(designs, weight, random=random)
    best = designs[int(np.argmax(weight))]
    own = posterior.visits.own_floor
    return Fit(
        posterior=posterior,
        visits=tuple(visits),
        clip_dbm=clip,
        step_db=step,
        log_evidence=best.log_evidence,
        structure=best.model.structure,
        interfered=tuple(int(i) for i in np.flatnonzero(own < DISTURBED_BELOW)),
    )
