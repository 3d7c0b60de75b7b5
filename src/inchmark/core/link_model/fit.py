"""The whole fit: screen, fit at three correlation lengths, flag, refit, draw."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.link_model.data import FitVisit, RigPrior, build_fit_data
from inchmark.core.link_model.hypers import IntegrationDesign, explore
from inchmark.core.link_model.mode import build_model
from inchmark.core.link_model.posterior import Posterior, draw_posterior
from inchmark.core.link_model.screening import (
    clip_level_dbm,
    reading_step_db,
    unexplained_losses,
)

CORRELATION_LENGTHS_M = (0.0, 30.0, 100.0)
CORRELATION_PRIOR = (0.5, 0.3, 0.2)
MAX_REFITS = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """A posterior with what was screened on the way to it."""

    posterior: Posterior
    visits: tuple[FitVisit, ...]
    clip_dbm: float | None
    step_db: float
    interfered: tuple[int, ...]  # visits whose losses were left out


def fit_link_model(
    visits: Sequence[FitVisit],
    priors: Mapping[str, RigPrior],
    *,
    pooled_tau: float,
    random: np.random.Generator,
    reference_noise_dbm: float | None = None,
) -> Fit:
    """Return the fitted link model.

    Raises
    ------
    ValueError
        No visit heard a frame with a level.
    """
    step = reading_step_db(visits)
    clip = clip_level_dbm(visits, step)
    fitted, interfered = list(visits), set[int]()
    near = None
    for round_ in range(MAX_REFITS + 1):
        data = build_fit_data(
            fitted, priors, clip_dbm=clip, step_db=step, reference_noise_dbm=reference_noise_dbm
        )
        last = round_ == MAX_REFITS
        lengths = CORRELATION_LENGTHS_M if len(data.stops) > 1 else CORRELATION_LENGTHS_M[:1]
        models = [build_model(data, correlation_m=length) for length in lengths]
        designs: list[IntegrationDesign] = []
        for model in models:
            designs.append(explore(model, designs[-1].mean if designs else near))
        near = designs[0].mean
        posterior = draw_posterior(
            models, designs, CORRELATION_PRIOR[: len(lengths)], random=random
        )
        found = set() if last else set(unexplained_losses(visits, posterior, pooled_tau))
        if found <= interfered:
            break
        interfered |= found
        fitted = [replace(v, ignore_losses=i in interfered) for i, v in enumerate(visits)]
    return Fit(
        posterior=posterior,
        visits=tuple(fitted),
        clip_dbm=clip,
        step_db=step,
        interfered=tuple(sorted(interfered)),
    )
