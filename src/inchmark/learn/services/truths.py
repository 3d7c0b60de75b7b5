"""The truth of a practice beside its claim."""

from __future__ import annotations

from inchmark.core.practice.scenarios import scenario_of
from inchmark.learn.figures.practice import Shown, shown
from inchmark.learn.models import Practice
from inchmark.learn.services.practice import hidden_truth


def shown_of(practice: Practice) -> Shown:
    """Return truth beside claim, under the study's rule."""
    study = practice.study
    scenario = scenario_of(practice.scenario, practice.seed)
    return shown(
        scenario, hidden_truth(practice), practice.claim or {},
        loss=study.loss_share, places=study.places_share,
    )  # fmt: skip
