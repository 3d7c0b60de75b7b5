"""Stops with what their coordinates say, and what a rig is expected to reach."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.expected_reach import ExpectedReach, expected_reach
from inchmark.core.geodesy import distances_m
from inchmark.plan.adapters.paths import link_of, surroundings_of
from inchmark.plan.adapters.places import place_of
from inchmark.plan.adapters.stops import climb_m, geodesic_m
from inchmark.plan.models import Site, SitePoint, Stop
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study

DISAGREE_SHARE = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredStop:
    """A stop with its distance between coordinates [m], and whether the typed one disagrees."""

    stop: Stop
    geodesic_m: float | None
    disagrees: bool


def measured_stops(stops: Sequence[Stop], site: Site | None) -> list[MeasuredStop]:
    """Return stops with what their coordinates say; over 5 % apart, one of the two is wrong."""
    placed = [(one, place) for one in stops if (place := place_of(one))]
    start, metres = place_of(site), {}
    if placed and site and start:
        lats, lons = zip(*((place.lat_deg, place.lon_deg) for _, place in placed), strict=True)
        along = distances_m(start, lats, lons)
        away = np.hypot(along, [climb_m(site, one.height_m) for one, _ in placed])
        metres = dict(zip([one.pk for one, _ in placed], away.tolist(), strict=True))
    return [_measured(stop, metres.get(stop.pk)) for stop in stops]


def _measured(stop: Stop, metres: float | None) -> MeasuredStop:
    off = metres is not None and abs(stop.distance_m / metres - 1) > DISAGREE_SHARE
    return MeasuredStop(stop=stop, geodesic_m=metres, disagrees=off)


def measured_points(
    points: Sequence[SitePoint], site: Site | None
) -> list[tuple[SitePoint, float | None]]:
    """Return receivers and needed places with how far each lies from the fixed end [m]."""
    return [(one, geodesic_m(site, one.lat, one.lon)) for one in points]


def predicted_range(study: Study, rig: Rig, site: Site | None) -> ExpectedReach:
    """Return how far a rig should keep the study's rule, by the site's way of predicting [m]."""
    return expected_reach(
        link_of(rig), surroundings_of(site), loss=study.loss_share, places=study.places_share
    )
