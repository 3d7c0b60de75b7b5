"""Where to stand next as a place on the planned route: a later room hands the distance over."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from inchmark.core.geodesy import Place
from inchmark.core.planning.on_route import OnRoute, on_route
from inchmark.plan.adapters.places import place_of
from inchmark.plan.models import Site, Stop
from inchmark.studies.models import Study


class Wanted(NamedTuple):
    """How far to stand from the fixed end next [m], at which planned stop if any, and why."""

    distance_m: float
    label: str
    why: str


Source = Callable[[Study], Wanted | None]
_sources: list[Source] = []


def provide_next(source: Source) -> None:
    """Take where to stand next from a later room."""
    if source not in _sources:
        _sources.append(source)


def wanted_of(study: Study) -> Wanted | None:
    """Return where to stand next, None where nothing says so."""
    return next((found for source in _sources if (found := source(study)) is not None), None)


def place_for(wanted: Wanted, site: Site | None, stops: Sequence[Stop]) -> OnRoute | None:
    """Return the place of a wanted distance along the stops, None where coordinates are missing."""
    fixed = place_of(site)
    placed = [(stop.label, place) for stop in stops if (place := place_of(stop)) is not None]
    if fixed is None:
        return None
    at: Place | None = dict(placed).get(wanted.label)
    if at is not None:
        return OnRoute(place=at, words=f"at stop {wanted.label}")
    return on_route(fixed, placed, wanted.distance_m)


def place_words(at: OnRoute | None) -> str:
    """Return the place as a sentence, empty where there is none."""
    if at is None:
        return ""
    lat, lon = at.place.lat_deg, at.place.lon_deg
    return f"By the planned route that is {at.words}: {lat:.5f}, {lon:.5f}."
