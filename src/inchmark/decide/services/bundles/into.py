"""Taking a bundle in: every row checked as if it had been typed, all of it or nothing."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import IO, Any

from django.core.exceptions import FieldDoesNotExist, ValidationError
from django.db import DatabaseError, connection, models, transaction

from inchmark.decide.services.bundles.carried import (
    CARRIED,
    FRAMES,
    SINCE,
    USER,
    Kind,
    fields_of,
    name_of,
)
from inchmark.decide.services.bundles.out import (
    FRAME_COLUMNS,
    FRAMES_PART,
    LATER,
    OF_STUDY,
    ROWS_SCHEMA,
    log_name,
)
from inchmark.decide.services.bundles.shapes import check_shape
from inchmark.formats.bundle.reader import Bundle, opened
from inchmark.formats.errors import UnreadableFileError
from inchmark.read.services import queue_reading
from inchmark.studies.models import Study
from inchmark.studies.services import start_study
from inchmark.walk.models import FileChunk, FrameFile, Visit
from inchmark.walk.services.summaries import summarise

MOST_ROWS = 500_000  # besides frames
DEEPEST = 24
MOST_CHUNK = 64 * 1024**2


def take_bundle(file: IO[bytes], by: Any) -> Study:
    """Return the study of a bundle, its importer its owner; it is read anew.

    Raises
    ------
    UnreadableFileError
        The bundle is not whole, was edited, or holds what no study can; nothing was kept.
    """
    with opened(file) as bundle:
        try:
            with transaction.atomic():
                study = _Taking(bundle, by).study()
                queue_reading(study.pk)
                return study
        except ValidationError as wrong:
            raise UnreadableFileError(" ".join(wrong.messages)[:400]) from None
        except (DatabaseError, OverflowError) as wrong:
            first = str(wrong).splitlines()[0] if str(wrong) else type(wrong).__name__
            raise UnreadableFileError(f"its rows do not hold together: {first[:200]}") from None


class _Taking:
    """One bundle being taken in: rows by kind, old numbers to new ones."""

    def __init__(self, bundle: Bundle, by: Any) -> None:
        self.bundle, self.by = bundle, by
        self.data = bundle.study()
        self.numbers: dict[str, dict[int, int]] = {name_of(kind): {} for kind in CARRIED}
        self.later: list[tuple[Kind, int, Any, int]] = []
        self.lengths: dict[int, int] = {}

    def study(self) -> Study:
        rows = self._checked()
        of_study = self.data.get("study")
        if not isinstance(of_study, dict) or set(of_study) | LATER != set(OF_STUDY):
            raise UnreadableFileError("study.json does not say what the study asks, or says more")
        study = start_study(by=self.by, **of_study)
        for kind in CARRIED:
            for number, row in enumerate(rows[name_of(kind)]):
                self._put(kind, row, study, f"{name_of(kind)} {number + 1}")
        for kind, pk, field, old in self.later:
            kind._base_manager.filter(pk=pk).update(
                **{field.attname: self._number(field, old, "a row")}
            )
        self._frames()
        with connection.cursor() as cursor:  # what is deferred is told here, not at the end
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
        visits = Visit.objects.filter(walk__study=study).select_related("rig", "walk", "stop")
        summarise(visits.order_by("pk"))
        Study.objects.filter(pk=study.pk).update(revision=max(self._revision(), study.revision))
        study.refresh_from_db()
        return study

    def _revision(self) -> int:
        found = self.data.get("revision")
        return found if isinstance(found, int) and 0 < found < 2**31 - 1 else 1

    def _checked(self) -> Mapping[str, list[dict[str, Any]]]:
        """Return the rows by kind, each a dictionary of known fields."""
        if self.data.get("schema") != ROWS_SCHEMA:
            raise UnreadableFileError(
                f"study.json is of schema {self.data.get('schema')!r}; this installation reads {ROWS_SCHEMA}"
            )
        if self.data.get("frame_columns") != FRAME_COLUMNS:
            raise UnreadableFileError("its frames have other columns than this installation’s")
        rows = self.data.get("rows")
        if isinstance(rows, dict):
            rows = {name_of(kind): [] for kind in SINCE} | rows
        if not isinstance(rows, dict) or set(rows) != set(self.numbers):
            raise UnreadableFileError("study.json does not hold the kinds of rows a study has")
        if not all(isinstance(one, list) for one in rows.values()):
            raise UnreadableFileError("study.json holds rows that are no list")
        if sum(len(one) for one in rows.values()) > MOST_ROWS:
            raise UnreadableFileError(f"it holds more than {MOST_ROWS} rows")
        return rows

    def _put(self, kind: Kind, row: Any, study: Study, where: str) -> None:
        fields = {field.name: field for field in fields_of(kind)}
        if not isinstance(row, dict) or set(row) != {"pk", *fields}:
            raise UnreadableFileError(f"{where}: it has other fields than such a row has")
        old = row["pk"]
        if not isinstance(old, int) or isinstance(old, bool) or old in self.numbers[name_of(kind)]:
            raise UnreadableFileError(f"{where}: its number is none, or is there twice")
        made = kind()
        if any(field.name == "study" for field in kind._meta.concrete_fields):
            made.study = study  # type: ignore[attr-defined]
        waiting: list[tuple[Any, int]] = []
        for name, field in fields.items():
            if field.is_relation:
                self._relate(kind, made, field, row[name], waiting, where)
            else:
                setattr(made, field.attname, self._value(kind, field, row, where))
        for field in kind._meta.concrete_fields:
            if field.is_relation and field.related_model is USER:
                setattr(made, field.attname, self.by.pk)
        _clean(made, where)
        made.save_base(raw=True, force_insert=True)  # times stay as they were
        self.numbers[name_of(kind)][old] = made.pk
        self.later += [(kind, made.pk, field, old_other) for field, old_other in waiting]

    def _relate(
        self, kind: Kind, made: Any, field: Any, value: Any, waiting: list[Any], where: str
    ) -> None:
        if value is None:
            return
        known = list(CARRIED)
        later = field.related_model in CARRIED and known.index(field.related_model) > known.index(
            kind
        )
        if later and field.null:
            waiting.append((field, value))
        else:
            setattr(made, field.attname, self._number(field, value, where))

    def _number(self, field: Any, old: Any, where: str) -> int:
        numbers = self.numbers.get(name_of(field.related_model), {})
        if not isinstance(old, int) or old not in numbers:
            raise UnreadableFileError(f"{where}: its {field.name} points at nothing in the bundle")
        return numbers[old]

    def _value(self, kind: Kind, field: Any, row: dict[str, Any], where: str) -> Any:
        value = row[field.name]
        if kind is FileChunk and field.name == "data":
            return self._chunk(row, where)
        if isinstance(field, models.BinaryField):
            return self._blob(value, field, where)
        if isinstance(field, models.JSONField):
            _check_depth(value, where)
            check_shape(kind, field.name, value, where)
            return value
        if value is not None and not isinstance(value, str | int | float | bool):
            raise UnreadableFileError(f"{where}: {field.name} is no single value")
        try:
            return field.to_python(value)
        except ValidationError as wrong:
            raise UnreadableFileError(f"{where}: {field.name}: {wrong.messages[0]}") from None

    def _blob(self, value: Any, field: Any, where: str) -> bytes | None:
        if value is None and field.null:
            return None
        name = value.get("file") if isinstance(value, dict) else None
        if not isinstance(name, str) or not name.startswith("files/"):
            raise UnreadableFileError(f"{where}: {field.name} names no file of the bundle")
        return self.bundle.read(name)

    def _chunk(self, row: dict[str, Any], where: str) -> bytes:
        """Return a piece of a log, from the log as it came."""
        piece, old = row["data"], row["file"]
        at, size = (piece.get(k) if isinstance(piece, dict) else None for k in ("at", "size"))
        if not isinstance(at, int) or not isinstance(size, int) or not 0 <= size <= MOST_CHUNK:
            raise UnreadableFileError(f"{where}: it does not say which piece of its log it is")
        if at != self.lengths.get(old, 0):
            raise UnreadableFileError(f"{where}: the pieces of its log do not follow each other")
        self.lengths[old] = at + size
        data = self._log(old, where)
        if at + size > len(data):
            raise UnreadableFileError(f"{where}: its log is shorter than it says")
        return data[at : at + size]

    def _log(self, old: Any, where: str) -> bytes:
        """Return a log's bytes; the last is kept at hand, since its pieces follow each other."""
        if getattr(self, "_last", (None, b""))[0] != old:
            pk = self.numbers[name_of(FrameFile)].get(old)
            kept = FrameFile.objects.filter(pk=pk).first() if pk is not None else None
            if kept is None:
                raise UnreadableFileError(f"{where}: it is of no log of the bundle")
            self._last = (old, self.bundle.read(log_name(old, kept.name)))
        return self._last[1]

    def _frames(self) -> None:
        """Copy the frames in, their visits and logs by their new numbers."""
        columns = ", ".join(f'"{one}"' for one in FRAME_COLUMNS)
        query = f'COPY "{FRAMES._meta.db_table}" ({columns}) FROM STDIN (FORMAT csv)'
        with connection.cursor() as cursor, cursor.copy(query) as copy:
            for line in _lines(self.bundle.pieces(FRAMES_PART)):
                copy.write(self._renumbered(line))

    def _renumbered(self, line: bytes) -> bytes:
        visits, files = (self.numbers[name_of(kind)] for kind in (Visit, FrameFile))
        visit, file, rest = (*line.split(b",", 2), b"", b"")[:3]
        try:
            return b"%d,%d,%s" % (visits[int(visit)], files[int(file)], rest)
        except (KeyError, ValueError):
            raise UnreadableFileError(
                f"{FRAMES_PART}: a frame points at no visit or log of the bundle"
            ) from None


def _lines(pieces: Iterator[bytes]) -> Iterator[bytes]:
    """Yield whole lines; a frame's row has no line breaks in it."""
    left = b""
    for piece in pieces:
        *whole, left = (left + piece).split(b"\n")
        yield from (line + b"\n" for line in whole)
    if left:
        yield left + b"\n"


def _clean(made: models.Model, where: str) -> None:
    fields = made._meta.concrete_fields
    left = [field.name for field in fields if field.is_relation or _stands(field, made)]
    try:
        made.clean_fields(exclude=left)
    except ValidationError as wrong:
        raise UnreadableFileError(f"{where}: {' '.join(wrong.messages)[:200]}") from None
    except FieldDoesNotExist as wrong:
        raise UnreadableFileError(f"{where}: {wrong}") from None


def _stands(field: Any, made: models.Model) -> bool:
    """Tell whether a field needs no look: bytes, what may be nothing, JSON that may stay unfilled."""
    value = getattr(made, field.attname)
    if value is None and field.null:
        return True
    empty = value in (None, "", [], {})
    return isinstance(field, models.BinaryField) or (
        isinstance(field, models.JSONField) and empty and field.has_default()
    )


def _check_depth(value: Any, where: str, depth: int = 0) -> None:
    if depth > DEEPEST:
        raise UnreadableFileError(f"{where}: it is nested deeper than any study is")
    inner = value.values() if isinstance(value, dict) else value if isinstance(value, list) else ()
    for one in inner:
        _check_depth(one, where, depth + 1)
