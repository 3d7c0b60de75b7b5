"""Verbs on further receivers and needed places: keep, move, remove, read from a file."""

from __future__ import annotations

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.formats.frame_log.lines import BadLine
from inchmark.formats.places import read_places
from inchmark.formats.stops import StopRow, read_stops
from inchmark.plan.adapters.stops import geodesic_m
from inchmark.plan.models import Site, SitePoint
from inchmark.plan.services.site import ON_TOP_M, StopsRead, refuse_null_island, site_of
from inchmark.studies.models import Study
from inchmark.studies.services import touch

LETTERS = {SitePoint.RECEIVER: "R", SitePoint.NODE: "N"}


def next_label(study: Study, kind: str) -> str:
    """Return the first label of a kind that is free: N1, N2 … or R1, R2 …."""
    taken, letter = set(study.points.values_list("label", flat=True)), LETTERS[kind]
    return next(f"{letter}{i}" for i in range(1, len(taken) + 2) if f"{letter}{i}" not in taken)


@transaction.atomic
def save_point(study: Study, point: SitePoint) -> SitePoint:
    """Keep a receiver or a needed place; a receiver changes what maps show.

    Raises
    ------
    ValidationError
        It breaks a rule, or lies on the fixed end.
    """
    point.study = study
    refuse_null_island(point.lat, point.lon)
    _refuse_on_top(site_of(study), point)
    point.label = point.label or next_label(study, point.kind)
    point.full_clean()
    point.save()
    if point.kind == SitePoint.RECEIVER:
        touch(study)
    return point


def _refuse_on_top(site: Site | None, point: SitePoint) -> None:
    away = geodesic_m(site, point.lat, point.lon)
    if away is not None and away < ON_TOP_M:
        raise ValidationError({"lat": "It lies on the fixed end. Check both coordinates."})


@transaction.atomic
def move_point(point: SitePoint, lat: float, lon: float) -> float | None:
    """Move a receiver or needed place; return how far it lies from the fixed end [m]."""
    point.lat, point.lon = lat, lon
    save_point(point.study, point)
    return geodesic_m(site_of(point.study), lat, lon)


@transaction.atomic
def remove_point(point: SitePoint) -> None:
    """Take a receiver or needed place off the site."""
    study, kind = point.study, point.kind
    point.delete()
    if kind == SitePoint.RECEIVER:
        touch(study)


@transaction.atomic
def add_points_file(study: Study, data: bytes, name: str, kind: str) -> StopsRead:
    """Add the places of a GPX, GeoJSON or CSV file as receivers or needed places.

    Raises
    ------
    UnreadableFileError
        The file holds no place, or a track instead of points.
    """
    bad: list[BadLine] = []
    if name.lower().endswith((".gpx", ".geojson", ".json")):
        rows = read_places(data, name)
    else:
        rows, bad = read_stops(data)
    known = set(study.points.values_list("lat", "lon"))
    added = 0
    for row in rows:
        if (row.lat, row.lon) in known:
            continue
        problem = _add(study, row, kind)
        if problem:
            bad.append(BadLine(0, row.stop, problem))
        added += not problem
    refused = len([one for one in bad if one.number == 0])
    return StopsRead(added=added, known=len(rows) - added - refused, bad=bad)


def _add(study: Study, row: StopRow, kind: str) -> str:
    """Add a place; return why not, in a sentence."""
    if row.lat is None or row.lon is None:
        return f"{row.name or row.stop} has no coordinates, which such a place needs."
    try:
        with transaction.atomic():
            save_point(study, SitePoint(kind=kind, name=row.name[:80], lat=row.lat, lon=row.lon))
    except ValidationError as wrong:
        return f"{row.name or row.stop}: {' '.join(wrong.messages)}"
    return ""
