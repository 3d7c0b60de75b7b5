"""Verbs on site and stops: place the fixed end, add a stop, read a stops file."""

from __future__ import annotations

from dataclasses import dataclass

from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import ProtectedError

from inchmark.formats.frame_log.lines import BadLine
from inchmark.formats.stops import StopRow, read_stops
from inchmark.plan.models import Site, Stop
from inchmark.plan.records import geodesic_m
from inchmark.studies.models import Study
from inchmark.studies.services import touch


@dataclass(frozen=True, slots=True, kw_only=True)
class StopsRead:
    """What a stops file gave."""

    added: int
    known: int
    bad: list[BadLine]


def site_of(study: Study) -> Site | None:
    """Return where the fixed end stands, None where nobody has said."""
    return Site.objects.filter(study=study).first()


@transaction.atomic
def place_fixed_end(study: Study, site: Site) -> Site:
    """Keep the fixed end's place; stops measured by coordinates follow it."""
    site.study = study
    site.full_clean()
    site.save()
    for stop in study.stops.filter(method="coordinates"):
        measured = geodesic_m(site, stop.lat, stop.lon)
        if measured:
            stop.distance_m = measured
            stop.save(update_fields=["distance_m"])
    touch(study)
    return site


@transaction.atomic
def save_stop(study: Study, stop: Stop) -> Stop:
    """Keep a stop; without a typed distance it is measured between coordinates."""
    stop.study = study
    if stop.distance_m is None:
        stop.distance_m = _measured(study, stop)
        stop.method = "coordinates"
    stop.full_clean()
    stop.save()
    touch(study)
    return stop


def _measured(study: Study, stop: Stop) -> float:
    measured = geodesic_m(site_of(study), stop.lat, stop.lon)
    if measured is None:
        raise ValidationError(
            {"distance_m": "Type a distance, or give coordinates of stop and fixed end."}
        )
    if measured < 0.1:
        raise ValidationError({"lat": "The stop lies on the fixed end. Check both coordinates."})
    return measured


@transaction.atomic
def remove_stop(stop: Stop) -> None:
    """Take a stop off the plan; one with frames stays."""
    try:
        stop.delete()
    except ProtectedError as wrong:
        raise ValidationError(f"Stop {stop.label} has frames, so it stays.") from wrong
    touch(stop.study)


@transaction.atomic
def add_stops_file(study: Study, data: bytes) -> StopsRead:
    """Add the stops of a file; stops the study has already are left as they are.

    Raises
    ------
    UnreadableFileError
        The file cannot be read at all.
    """
    rows, bad = read_stops(data)
    known = set(study.stops.values_list("label", flat=True))
    added = 0
    for row in rows:
        if row.stop in known:
            continue
        try:
            with transaction.atomic():
                save_stop(study, _stop(row))
            added += 1
        except ValidationError as wrong:
            bad.append(BadLine(0, row.stop, f"Stop {row.stop}: {' '.join(wrong.messages)}"))
    return StopsRead(
        added=added, known=len(rows) - added - len([b for b in bad if b.number == 0]), bad=bad
    )


def _stop(row: StopRow) -> Stop:
    methods = {key for key, _ in Stop.METHODS}
    return Stop(
        label=row.stop,
        name=row.name[:80],
        distance_m=row.distance_m,
        plus_minus_m=row.plus_minus_m,
        method=row.method if row.method in methods else "",
        lat=row.lat,
        lon=row.lon,
        height_m=row.height_m,
    )
