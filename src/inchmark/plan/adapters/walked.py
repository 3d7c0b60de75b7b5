"""How a site is predicted once it has been walked: a later room hands the law over."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from inchmark.core.prediction import Surroundings, WalkedLaw
from inchmark.plan.adapters.paths import surroundings_of
from inchmark.plan.models import Site
from inchmark.studies.models import Study

Source = Callable[[Study], WalkedLaw | None]
_sources: list[Source] = []


def provide_walked(source: Source) -> None:
    """Take what a walk teaches of a study's paths from a later room."""
    if source not in _sources:
        _sources.append(source)


def around_of(study: Study, site: Site | None, *, as_planned: bool = False) -> Surroundings:
    """Return how a study's paths are predicted: as walked where there is a walk, else as planned."""
    planned = surroundings_of(site)
    if as_planned:
        return planned
    for source in _sources:
        law = source(study)
        if law is not None:
            return replace(planned, walked=law, shadowing_db=law.shadowing_db)
    return planned
