"""Walks, files, visits and frames, by who may see them; frames in bulk by the database's own means."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from typing import Any

import psycopg
from django.db import connection
from django.db.models import Q, QuerySet
from django.utils import timezone

from inchmark.studies.querysets import InStudyQuerySet

EXPORT_LINES = 20_000  # a piece of an export: some two megabytes
# one row of arrays: a million frames cost one round trip and no objects
_PACKED = """
    SELECT string_agg(int8send(seq), ''::bytea) AS seq,
           string_agg(CASE WHEN heard THEN '\\x01'::bytea ELSE '\\x00'::bytea END, ''::bytea)
               AS heard,
           string_agg(float8send(coalesce(rssi_dbm, 'NaN')), ''::bytea) AS rssi_dbm,
           string_agg(float8send(coalesce(snr_db, 'NaN')), ''::bytea) AS snr_db,
           string_agg(float8send(coalesce(noise_dbm, 'NaN')), ''::bytea) AS noise_dbm,
           string_agg(float8send(coalesce(extract(epoch FROM time)::float8, 'NaN')), ''::bytea)
               AS time_s,
           string_agg(int8send(pass_number), ''::bytea) AS passes,
           string_agg(CASE WHEN hops > 0 THEN '\\x01'::bytea ELSE '\\x00'::bytea END, ''::bytea)
               AS relayed,
           string_agg(float8send(coalesce(lat, 'NaN')), ''::bytea) AS lat,
           string_agg(float8send(coalesce(lon, 'NaN')), ''::bytea) AS lon
    FROM (SELECT * FROM walk_frame WHERE visit_id = %s AND file_id = %s
          ORDER BY line_number, seq) AS ordered
"""
# from one file to the next along the index: a million frames of one log are stepped over
_FILES = """
    WITH RECURSIVE own AS (
        SELECT min(file_id) AS id FROM walk_frame WHERE visit_id = %(visit)s
        UNION ALL
        SELECT (SELECT min(file_id) FROM walk_frame WHERE visit_id = %(visit)s AND file_id > own.id)
        FROM own WHERE own.id IS NOT NULL)
    SELECT id FROM own WHERE id IS NOT NULL ORDER BY id
"""
_WEAK = """
    SELECT rssi_dbm, snr_db, coalesce(noise_dbm, 'NaN'), v.id
    FROM walk_frame f JOIN walk_visit v ON v.id = f.visit_id
    WHERE v.rig_id = %s AND snr_db < 3 AND rssi_dbm IS NOT NULL LIMIT %s
"""
# text that a spreadsheet would run as a formula gets an apostrophe before it; our reader takes it off
_PLAIN = "regexp_replace({0}, '^(''*[=+@\\-\\t\\r])', '''\\1')"
_EXPORT = f"""
    COPY (SELECT {_PLAIN.format("r.letter")} AS rig, {_PLAIN.format("s.label")} AS stop,
                 f.seq, f.heard::int AS heard,
                 to_char(f.time AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"') AS time,
                 f.rssi_dbm, f.snr_db, f.noise_dbm, {_PLAIN.format("v.condition")} AS condition,
                 {_PLAIN.format("v.direction")} AS direction,
                 {_PLAIN.format("v.receiver")} AS receiver,
                 {_PLAIN.format("f.source")} AS source, f.hops, f.lat, f.lon,
                 nullif(f.pass_number, 0) AS pass
          FROM walk_frame f JOIN walk_visit v ON v.id = f.visit_id
               JOIN shelf_rig r ON r.id = v.rig_id
               JOIN plan_stop s ON s.id = v.stop_id
          WHERE f.file_id = {{file}} AND f.line_number > {{after}} AND f.line_number <= {{last}}
          ORDER BY f.line_number, f.visit_id, f.seq)
    TO STDOUT (FORMAT csv)
"""  # noqa: S608 - every part of it is ours; numbers of files and lines go in as integers
_EXPORT_END = """
    SELECT max(line_number), count(*) FROM (
        SELECT line_number FROM walk_frame WHERE file_id = %s AND line_number > %s
        ORDER BY line_number LIMIT %s) AS piece
"""


class WalkQuerySet(InStudyQuerySet):
    """Walks of studies."""

    def loggable_by(self, user: Any) -> WalkQuerySet:
        """Return the walks a user may log into: those of own studies, and those of a pass."""
        member = Q(study__memberships__user=user, study__memberships__role__in=("owner", "editor"))
        live = Q(passes__user=user, passes__expires_at__gt=timezone.now())
        return self.filter(member | live).distinct()


class InWalkQuerySet(InStudyQuerySet):
    """Rows of a walk of a study."""

    to_study = "walk__study"


class FrameQuerySet(QuerySet[Any]):
    """Frames, in bulk."""

    def packed(self, visit_id: int, file_id: int) -> tuple[bytes, ...]:
        """Return the columns of what a log gave a visit, in logged order, big-endian.

        Counters, heard flags, RSSI, S/N, noise, times [s], passes, whether through a relay, latitude
        and longitude [degrees].
        """
        connection.ensure_connection()
        # Django's own cursor cannot take binary results
        with psycopg.Cursor(connection.connection) as cursor:
            found = cursor.execute(_PACKED, [visit_id, file_id], binary=True).fetchone()
        return tuple(column or b"" for column in found or ())

    def files_of(self, visit_id: int) -> list[int]:
        """Return the logs that gave a visit frames, in order."""
        with connection.cursor() as cursor:
            cursor.execute(_FILES, {"visit": visit_id})
            return [found for (found,) in cursor.fetchall()]

    def weak(self, rig_id: int, limit: int) -> list[tuple[float, float, float, int]]:
        """Return RSSI, S/N, noise and visit of a rig's weak readings, NaN where not logged."""
        with connection.cursor() as cursor:
            cursor.execute(_WEAK, [rig_id, limit])
            return list(cursor.fetchall())

    def exported(self, file_ids: Iterable[int]) -> Iterator[bytes]:
        """Yield the frames of files as the CSV they could have come from, a piece a query.

        Between pieces nothing is held in the database.
        """
        for file_id in file_ids:
            after, lines = -1, EXPORT_LINES
            while lines == EXPORT_LINES:
                with connection.cursor() as cursor:
                    cursor.execute(_EXPORT_END, [file_id, after, EXPORT_LINES])
                    last, lines = cursor.fetchone()
                    if not lines:
                        break
                    query = _EXPORT.format(file=int(file_id), after=int(after), last=int(last))
                    with cursor.copy(query) as copy:
                        piece = b"".join(copy)
                after = last
                yield piece


class FrameCopy:
    """Rows put into the frames, a block at a time, while the next block is being read.

    A thread of its own hands each block to the server and waits for it, keys checked with it instead
    of all at the end. The connection is taken meanwhile: `pause` before anything else is asked of it.
    """

    def __init__(self) -> None:
        self._hand = ThreadPoolExecutor(1, "copy")
        self._under_way: Future[None] | None = None

    def __enter__(self) -> FrameCopy:
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
        return self

    def __exit__(self, wrong: object, *more: object) -> None:
        try:
            if wrong is None:
                self.pause()
        finally:
            self._hand.shutdown()

    def write(self, columns: Sequence[str], rows: Iterable[str]) -> None:
        """Put in rows of tab-separated tokens, NULL as backslash N."""
        text = "\n".join(rows) + "\n"
        into = f"COPY walk_frame ({', '.join(columns)}) FROM STDIN"
        self.pause()
        self._under_way = self._hand.submit(_copy_in, connection.connection, into, text)

    def pause(self) -> None:
        """Wait until the server has taken what was written, and let the connection go."""
        if self._under_way is not None:
            under_way, self._under_way = self._under_way, None
            under_way.result()


def _copy_in(through: psycopg.Connection, into: str, text: str) -> None:
    with through.cursor() as cursor, cursor.copy(into) as copy:
        copy.write(text)


class FrameFileQuerySet(InWalkQuerySet):
    """Logs as they came."""

    def read_by_recipe(self) -> FrameFileQuerySet:
        """Return logs that were read by a recipe and whose lines are still kept."""
        return self.filter(recipe__isnull=False, state="read", let_go_at=None)

    def clear(self, file_id: int) -> None:
        """Take out what an earlier reading of a file gave."""
        with connection.cursor() as cursor:
            cursor.execute("DELETE FROM walk_visitcolumns WHERE file_id = %s", [file_id])
            cursor.execute("DELETE FROM walk_frame WHERE file_id = %s", [file_id])
            cursor.execute("DELETE FROM walk_badline WHERE file_id = %s", [file_id])

    def alone_with(self, file_id: int) -> None:
        """Wait until no other transaction reads this file."""
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s, %s)", [READING_LOCK, file_id])

    def tell_progress(self, of: Any, file_id: int, *, done: int, frames: int) -> None:
        """Say through a connection of its own how far a file's reading has come."""
        with of.cursor() as cursor:
            cursor.execute(
                "UPDATE walk_importprogress SET done = %s, frames = %s WHERE file_id = %s",
                [done, frames, file_id],
            )


READING_LOCK = 4711  # the first half of the advisory lock's key
