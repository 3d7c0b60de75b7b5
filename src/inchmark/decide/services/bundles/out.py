"""Writing a study's bundle: its rows, its logs as they came, its frames, and open formats beside them."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator
from typing import IO, Any

from django.db import connection, models, transaction
from django.utils import timezone

from inchmark import __version__
from inchmark.core.reading.analysis import MODEL_VERSION
from inchmark.decide.services.bundles.carried import (
    BEFORE_A_WALK,
    CARRIED,
    FRAMES,
    Kind,
    fields_of,
    name_of,
)
from inchmark.decide.services.bundles.open_formats import (
    ascii_grid,
    points_geojson,
    track_gpx,
    walls_geojson,
)
from inchmark.formats.bundle.manifest import STUDY
from inchmark.formats.bundle.writer import BundleWriter
from inchmark.formats.reading_json import reading_json
from inchmark.plan.adapters.terrain import grid_for
from inchmark.read.services import current_reading, exported_frames
from inchmark.studies.models import Study
from inchmark.walk.models import FileChunk, Frame, FrameFile, Track

ROWS_SCHEMA = 1
FRAME_COLUMNS = [field.column for field in Frame._meta.concrete_fields if not field.primary_key]
OF_STUDY = (
    "title", "question", "needed_m", "loss_share", "places_share", "in_hand_db",
    "needed_direction", "needed_receiver", "own_noise", "region", "asks",
)  # fmt: skip
LATER = {"asks"}  # what bundles of an older version do not say
FRAMES_PART = "rows/frames.csv"
MOST_CELLS = 4_000_000  # of a terrain written as text too


def write_bundle(study: Study, file: IO[bytes], *, walked: bool = True) -> None:
    """Write a study as it stands at one moment; without what was walked, read and decided if not `walked`."""
    outermost = not connection.in_atomic_block
    with transaction.atomic():
        if outermost:  # inside another transaction its level stands already
            with connection.cursor() as cursor:
                cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
        now = Study.objects.get(pk=study.pk)  # as it stands in this transaction
        _write(now, file, walked=walked)


def _write(study: Study, file: IO[bytes], *, walked: bool) -> None:
    with BundleWriter(
        file,
        title=study.title,
        made_at=timezone.now().isoformat(timespec="seconds"),
        code_version=__version__,
        model_version=MODEL_VERSION,
    ) as out:
        rows = {
            name_of(kind): list(_rows(kind, study, out)) if walked or kind in BEFORE_A_WALK else []
            for kind in CARRIED
        }
        out.add(FRAMES_PART, _frames(study) if walked else b"")
        of_study = {name: getattr(study, name) for name in OF_STUDY}
        out.add_json(
            STUDY,
            {
                "schema": ROWS_SCHEMA,
                "revision": study.revision,
                "study": of_study,
                "frame_columns": FRAME_COLUMNS,
                "rows": rows,
            },
        )
        if walked:
            _open_formats(study, out)


def _rows(kind: Kind, study: Study, out: BundleWriter) -> Iterator[dict[str, Any]]:
    fields = fields_of(kind)
    offsets: dict[int, int] = {}
    if kind is FrameFile:
        _logs(study, out)
    row: Any
    for row in kind._base_manager.filter(**{CARRIED[kind]: study}).order_by("pk").iterator(500):
        told: dict[str, Any] = {"pk": row.pk}
        for field in fields:
            value = getattr(row, field.attname)
            if kind is FileChunk and field.name == "data":
                at = offsets.get(row.file_id, 0)
                told["data"] = {"at": at, "size": len(value)}
                offsets[row.file_id] = at + len(value)
            elif isinstance(field, models.BinaryField):
                told[field.name] = None if value is None else _blob(out, kind, row, field, value)
            else:
                told[field.name] = _plain(field, value)
        yield told


def _plain(field: Any, value: Any) -> Any:
    if value is None or field.is_relation or isinstance(value, bool | int | float | str):
        return value
    if isinstance(field, models.JSONField):
        return value
    return field.value_to_string(_Holder(field.attname, value))


class _Holder:
    """One value under its name, for a field that writes it as text."""

    def __init__(self, name: str, value: Any) -> None:
        setattr(self, name, value)


def _blob(out: BundleWriter, kind: Kind, row: Any, field: Any, value: Any) -> dict[str, str]:
    name = _safe(getattr(row, "name", "") or "bytes")
    path = f"files/{kind._meta.model_name}-{row.pk}-{field.name}-{name}"
    return {"file": out.add(path, bytes(value))}


def log_name(pk: int, name: str) -> str:
    """Return where a log's bytes stand in a bundle."""
    return f"logs/{pk}-{_safe(name)}"


def _safe(name: str) -> str:
    return re.sub(r"[^A-Za-z0-9._-]+", "-", name).strip(".-")[:80] or "file"


def _logs(study: Study, out: BundleWriter) -> None:
    for pk, name in (
        FrameFile.objects.filter(walk__study=study).order_by("pk").values_list("pk", "name")
    ):
        chunks = FileChunk.objects.filter(file_id=pk).order_by("number")
        out.add(log_name(pk, name), (bytes(data) for data in _column(chunks, "data")))


def _column(rows: Any, name: str) -> Iterable[Any]:
    found: Iterable[Any] = rows.values_list(name, flat=True).iterator(20)
    return found


def _frames(study: Study) -> Iterator[bytes]:
    """Yield every frame with all its columns, as COPY writes CSV."""
    table, columns = FRAMES._meta.db_table, ", ".join(f'f."{one}"' for one in FRAME_COLUMNS)
    query = f"""COPY (SELECT {columns} FROM "{table}" f JOIN walk_visit v ON v.id = f.visit_id
        JOIN walk_walk w ON w.id = v.walk_id WHERE w.study_id = {int(study.pk)}
        ORDER BY f.id) TO STDOUT (FORMAT csv)"""  # noqa: S608 - names are ours, the number is one
    with connection.cursor() as cursor, cursor.copy(query) as copy:
        for block in copy:
            yield bytes(block)


def _open_formats(study: Study, out: BundleWriter) -> None:
    """Add what other programs read: frames as CSV, places as GeoJSON, terrain, the reading as JSON."""
    out.add("frames.csv", exported_frames(study))
    out.add_json("stops.geojson", points_geojson(study.stops.filter(lat__isnull=False), "stop"))
    out.add_json("places.geojson", points_geojson(study.points.all(), "place"))
    walls = study.walls.all()
    if walls:
        out.add_json("walls.geojson", walls_geojson(walls))
    for track in Track.objects.filter(walk__study=study).order_by("pk"):
        out.add(f"tracks/{track.pk}-{_safe(track.name)}.gpx", track_gpx(track))
    kept = current_reading(study)
    if kept is not None:
        out.add("reading.json", json.dumps(reading_json(kept.reading), indent=1).encode())
    grid = grid_for(study)
    if grid is not None and grid.heights_m.size <= MOST_CELLS:
        out.add("terrain.asc", ascii_grid(grid))
