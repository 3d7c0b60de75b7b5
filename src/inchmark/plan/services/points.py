"""Verbs on further receivers and needed places: keep, move, remove, read from a file."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import count

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.formats.frame_log.lines import BadLine
from inchmark.formats.places import read_places
from inchmark.formats.stops import StopRow, read_stops
from inchmark.pages.bulk import check_row
from inchmark.plan.adapters.stops import geodesic_m
from inchmark.plan.models import Site, SitePoint
from inchmark.plan.services.site import BATCH, ON_TOP_M, StopsRead, refuse_null_island, site_of
from inchmark.studies.models import Removed, Study
from inchmark.studies.services import touch
from inchmark.studies.services.undo import take_away

MOST_POINTS = 5_000
LETTERS = {SitePoint.RECEIVER: "R", SitePoint.NODE: "N"}


def next_label(study: Study, kind: str) -> str:
    """Return the first label of a kind that is free: N1, N2 … or R1, R2 …."""
    return next(free_labels(study, kind))


def free_labels(study: Study, kind: str) -> Iterator[str]:
    """Yield the labels of a kind that are free, in order."""
    taken, letter = set(study.points.values_list("label", flat=True)), LETTERS[kind]
    return (label for label in (f"{letter}{i}" for i in count(1)) if label not in taken)


@transaction.atomic
def save_point(study: Study, point: SitePoint) -> SitePoint:
    """Keep a receiver or a needed place; what is read and drawn follows it.

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
def remove_point(point: SitePoint) -> Removed:
    """Take a receiver or needed place off the site."""
    study = point.study
    removed = take_away(point, f"{point.get_kind_display().capitalize()} {point.label}", study)
    touch(study)
    return removed


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
    known, site = set(study.points.values_list("lat", "lon")), site_of(study)
    labels = free_labels(study, kind)
    fresh = []
    for row in rows:
        if (row.lat, row.lon) in known:
            continue
        try:
            point = _point(study, row, kind, site)
        except ValidationError as wrong:
            problem = f"{row.name or row.stop}: {' '.join(wrong.messages)}"
            bad.append(BadLine(0, row.stop, problem))
            continue
        point.label = next(labels)
        fresh.append(point)
        known.add((point.lat, point.lon))
    if study.points.count() + len(fresh) > MOST_POINTS:
        raise ValidationError(f"A study has {MOST_POINTS} places at most. Bring fewer.")
    SitePoint.objects.bulk_create(fresh, batch_size=BATCH)
    if fresh:
        touch(study)
    refused = len([one for one in bad if one.number == 0])
    return StopsRead(added=len(fresh), known=len(rows) - len(fresh) - refused, bad=bad)


def _point(study: Study, row: StopRow, kind: str, site: Site | None) -> SitePoint:
    """Return the place of a row, checked but without a label of its own yet."""
    if row.lat is None or row.lon is None:
        raise ValidationError("It has no coordinates, which such a place needs.")
    point = SitePoint(
        study=study, kind=kind, label="?", name=row.name[:80], lat=row.lat, lon=row.lon
    )
    refuse_null_island(point.lat, point.lon)
    _refuse_on_top(site, point)
    check_row(point)
    return point
