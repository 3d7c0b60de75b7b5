"""Stops as the core knows them, and what a rig is expected to reach before anyone walks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot

import numpy as np
from django.db.models import prefetch_related_objects

from inchmark.core.expected_reach import ExpectedReach, Reaching, expected_reach
from inchmark.core.geodesy import Place, distances_m, geodesic
from inchmark.core.reading.measured import StopFacts
from inchmark.plan.models import Site, SitePoint, Stop
from inchmark.plan.records.paths import is_magnetic, levels_of, surroundings_of
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study

DISAGREE_SHARE = 0.05


def stops_of(study: Study) -> list[Stop]:
    """Return a study's stops, read once for a page and the tape above it."""
    prefetch_related_objects([study], "stops")
    return list(study.stops.all())


def geodesic_m(
    site: Site | None, lat: float | None, lon: float | None, height_m: float | None = None
) -> float | None:
    """Return how far a place lies from the fixed end [m], None where either has no coordinates.

    Over the ellipsoid, joined with the difference of the grounds' heights where both are known.
    """
    if site is None or None in (site.lat, site.lon, lat, lon):
        return None
    start = Place(lat_deg=float(site.lat or 0), lon_deg=float(site.lon or 0))
    along = geodesic(start, Place(lat_deg=float(lat or 0), lon_deg=float(lon or 0))).distance_m
    return hypot(along, climb_m(site, height_m))


def climb_m(site: Site, height_m: float | None) -> float:
    """Return how much higher a ground lies than the fixed end's [m], 0 where one is unknown."""
    return 0.0 if None in (site.ground_m, height_m) else float(height_m or 0) - site.ground_m


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredStop:
    """A stop with its distance between coordinates [m], and whether the typed one disagrees."""

    stop: Stop
    geodesic_m: float | None
    disagrees: bool


def measured_stops(stops: Sequence[Stop], site: Site | None) -> list[MeasuredStop]:
    """Return stops with what their coordinates say; over 5 % apart, one of the two is wrong."""
    placed = [one for one in stops if one.lat is not None and one.lon is not None]
    if site is None or site.lat is None or site.lon is None:
        placed = []
    metres = {}
    if placed and site:
        start = Place(lat_deg=float(site.lat or 0), lon_deg=float(site.lon or 0))
        along = distances_m(start, [one.lat for one in placed], [one.lon for one in placed])
        away = np.hypot(along, [climb_m(site, one.height_m) for one in placed])
        metres = dict(zip([one.pk for one in placed], away.tolist(), strict=True))
    return [_measured(stop, metres.get(stop.pk)) for stop in stops]


def _measured(stop: Stop, metres: float | None) -> MeasuredStop:
    off = metres is not None and abs(stop.distance_m / metres - 1) > DISAGREE_SHARE
    return MeasuredStop(stop=stop, geodesic_m=metres, disagrees=off)


def measured_points(
    points: Sequence[SitePoint], site: Site | None
) -> list[tuple[SitePoint, float | None]]:
    """Return receivers and needed places with how far each lies from the fixed end [m]."""
    return [(one, geodesic_m(site, one.lat, one.lon)) for one in points]


def facts_of(stop: Stop, site: Site | None) -> StopFacts:
    """Return how a stop was measured."""
    return StopFacts(
        name=stop.name,
        method=stop.method,
        plus_minus_m=stop.plus_minus_m,
        geodesic_m=geodesic_m(site, stop.lat, stop.lon, stop.height_m),
    )


def predicted_range(study: Study, rig: Rig, site: Site | None) -> ExpectedReach:
    """Return how far a rig should keep the study's rule, by the site's way of predicting [m]."""
    lossless, threshold = levels_of(rig)
    reaching = Reaching(
        lossless_dbm=lossless,
        threshold_dbm=threshold,
        height1_m=rig.fixed_height_m,
        height2_m=rig.height_m,
        frequency_hz=rig.frequency_hz,
        loss_share=study.loss_share,
        places_share=study.places_share,
        magnetic=is_magnetic(rig),
    )
    return expected_reach(reaching, surroundings_of(site))
