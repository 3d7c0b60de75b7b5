"""Stops as the core knows them."""

from __future__ import annotations

from math import hypot
from typing import Any

from django.db.models import prefetch_related_objects

from inchmark.core.geodesy import Place, geodesic
from inchmark.core.reading.measured import StopFacts
from inchmark.plan.models import Site, Stop
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study


def stops_of(study: Study) -> list[Stop]:
    """Return a study's stops, read once for a revision of the study."""

    def read() -> Any:
        prefetch_related_objects([study], "stops")
        return study._prefetched_objects_cache["stops"]  # type: ignore[attr-defined]

    found = per_revision(study, "stops", read)
    vars(study).setdefault("_prefetched_objects_cache", {})["stops"] = found
    return list(found)


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
    if height_m is None or site.ground_m is None:
        return 0.0
    return float(height_m - site.ground_m)


def stop_facts(stop: Stop, site: Site | None) -> StopFacts:
    """Return how a stop was measured."""
    return StopFacts(
        name=stop.name,
        distance_m=stop.distance_m,
        method=stop.method,
        plus_minus_m=stop.plus_minus_m,
        geodesic_m=geodesic_m(site, stop.lat, stop.lon, stop.height_m),
        spot=None if stop.lat is None or stop.lon is None else (stop.lat, stop.lon),
    )
