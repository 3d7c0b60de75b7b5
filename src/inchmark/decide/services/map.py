"""Needed places from above: marks and bands of chance, as plain data for the map."""

from __future__ import annotations

from typing import Any

from django.urls import reverse

from inchmark.decide.figures.placed import Placed
from inchmark.plan.drawings.maps import bands_of
from inchmark.plan.figures.walls import on_map, wall_rows
from inchmark.studies.models import Study


def marks(study: Study, found: Placed) -> dict[str, Any]:
    """Return the marks of the map; places without coordinates are left out."""
    tried, site = found.tried.tried, found.site
    end = found.tried.basis.ground.end
    start = tried.fixed or ((end.place.lat_deg, end.place.lon_deg) if end.place else None)
    return {
        "fixed": [*start, str(end)] if start else None,
        "places": [
            [one.place.label, one.place.name, one.place.lat, one.place.lon, one.verdict]
            for one in found.rows
            if one.place.lat is not None
        ],
        "receivers": [list(one) for one in tried.receivers],
        "rig": found.rig.letter,
        "bands": reverse("decide:places-map", args=[study.pk]),
        "page": reverse("decide:places", args=[study.pk]),
        "walls": on_map(wall_rows(site.walls_drawn if site else [], found.rig.frequency_hz)),
        "tiles": [site.tiles_url, site.tiles_credit] if site and site.tiles_url else None,
    }


def bands(found: Placed) -> list[list[Any]]:
    """Return the bands of chance all around; none where nothing lies anywhere."""
    drawn = found.tried.map()
    return bands_of(drawn) if drawn else []
