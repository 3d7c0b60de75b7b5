"""Verbs on site and stops: place the fixed end, add a stop, read files of stops."""

from __future__ import annotations

from dataclasses import dataclass, replace

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import Exists, OuterRef, ProtectedError

from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.lines import BadLine
from inchmark.formats.places import read_places
from inchmark.formats.stops import StopRow, read_stops
from inchmark.pages.bulk import check_row
from inchmark.plan.adapters.places import place_of
from inchmark.plan.adapters.stops import geodesic_m
from inchmark.plan.models import Site, SiteWall, Stop
from inchmark.studies.models import Removed, Study
from inchmark.studies.services import touch
from inchmark.studies.services.undo import take_away

MOST_STOPS = 1_000
BATCH = 500  # rows a statement
ON_TOP_M = 0.5  # nearer than that no coordinates tell two places apart


def refuse_null_island(lat: float | None, lon: float | None) -> None:
    """Refuse 0, 0, where no fixed end, stop or node is."""
    if lat == 0 and lon == 0:
        raise ValidationError(
            {"lat": "0, 0 lies in the sea off Africa: a receiver without a fix writes that."}
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class StopsRead:
    """What a stops file gave."""

    added: int
    known: int
    bad: list[BadLine]


def site_of(study: Study) -> Site | None:
    """Return where the fixed end stands, None where nobody has said."""
    walls = SiteWall.objects.filter(study=OuterRef("study"))
    rows = Site.objects.filter(study=study).select_related("surrounding")
    return rows.annotate(has_walls=Exists(walls)).first()


@transaction.atomic
def place_fixed_end(study: Study, site: Site) -> Site:
    """Keep the fixed end's place; stops measured by coordinates follow it."""
    site.study = study
    refuse_null_island(site.lat, site.lon)
    site.full_clean()
    site.save()
    moved = []
    for stop in study.stops.filter(method="coordinates"):
        measured = geodesic_m(site, stop.lat, stop.lon, stop.height_m)
        if measured:
            stop.distance_m = measured
            moved.append(stop)
    Stop.objects.bulk_update(moved, ["distance_m"], batch_size=BATCH)
    touch(study)
    return site


@transaction.atomic
def save_stop(study: Study, stop: Stop) -> Stop:
    """Keep a stop; without a typed distance it is measured between coordinates."""
    if stop.pk is None:
        _need_room(study, 1)
    _measure(study, stop, site_of(study))
    stop.full_clean()
    stop.save()
    touch(study)
    return stop


def _need_room(study: Study, more: int) -> None:
    if study.stops.count() + more > MOST_STOPS:
        raise ValidationError(f"A study has {MOST_STOPS} stops at most. Start another study.")


def _measure(study: Study, stop: Stop, site: Site | None) -> None:
    """Give a stop its study, and a distance between coordinates where none was typed."""
    stop.study = study
    refuse_null_island(stop.lat, stop.lon)
    measured = geodesic_m(site, stop.lat, stop.lon)
    if measured is not None and measured < ON_TOP_M:
        raise ValidationError({"lat": "The stop lies on the fixed end. Check both coordinates."})
    if stop.distance_m is None:
        between = geodesic_m(site, stop.lat, stop.lon, stop.height_m)
        if between is None:
            raise ValidationError(
                {"distance_m": "Type a distance, or give coordinates of stop and fixed end."}
            )
        stop.distance_m, stop.method = between, "coordinates"


@transaction.atomic
def remove_stop(stop: Stop) -> Removed:
    """Take a stop off the plan; one with frames stays."""
    try:
        removed = take_away(stop, f"Stop {stop.label}", stop.study)
    except ProtectedError as wrong:
        raise ValidationError(f"Stop {stop.label} has frames, so it stays.") from wrong
    touch(stop.study)
    return removed


@transaction.atomic
def add_stops_file(study: Study, data: bytes) -> StopsRead:
    """Add the stops of a file; stops the study has already are left as they are.

    Raises
    ------
    UnreadableFileError
        The file cannot be read at all.
    """
    rows, bad = read_stops(data)
    return _add(study, rows, bad)


@transaction.atomic
def add_places_file(
    study: Study,
    data: bytes,
    name: str,
    *,
    every_m: float | None = None,
    doubling_from_m: float | None = None,
) -> StopsRead:
    """Add the places of a GPX or GeoJSON file as stops, numbered on from those there are.

    Raises
    ------
    UnreadableFileError
        The file holds no place, or a track without a way to place stops along it.
    """
    site = site_of(study)
    fixed = place_of(site)
    if fixed is None:
        raise UnreadableFileError("Place the fixed end first: distances are measured from there.")
    rows = read_places(data, name, every_m=every_m, doubling_from_m=doubling_from_m, fixed=fixed)
    first = study.stops.count()
    numbered = [replace(row, stop=str(first + int(row.stop))) for row in rows]
    return _add(study, numbered, [])


def _add(study: Study, rows: list[StopRow], bad: list[BadLine]) -> StopsRead:
    known, site = set(study.stops.values_list("label", flat=True)), site_of(study)
    fresh = []
    for row in rows:
        if row.stop in known:
            continue
        stop = _stop(row)
        try:
            _measure(study, stop, site)
            check_row(stop)
        except ValidationError as wrong:
            bad.append(BadLine(0, row.stop, f"Stop {row.stop}: {' '.join(wrong.messages)}"))
        else:
            fresh.append(stop)
            known.add(row.stop)
    _need_room(study, len(fresh))
    Stop.objects.bulk_create(fresh, batch_size=BATCH)
    if fresh:
        touch(study)
    added = len(fresh)
    return StopsRead(
        added=added, known=len(rows) - added - len([b for b in bad if b.number == 0]), bad=bad
    )


def _stop(row: StopRow) -> Stop:
    methods = {key for key, _ in Stop.METHODS}
    return Stop(
        label=row.stop,
        name=row.name[:80],
        distance_m=row.distance_m,  # type: ignore[misc]  # measured on saving where open
        plus_minus_m=row.plus_minus_m,
        method=row.method if row.method in methods else "",
        lat=row.lat,
        lon=row.lon,
        height_m=row.height_m,
    )
