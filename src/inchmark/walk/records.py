"""Visits as the core knows them: summaries to JSON and back, frames to arrays."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from typing import Any

import numpy as np
import psycopg
from django.db import connection
from django.db.models import Exists, OuterRef, QuerySet
from numpy.typing import NDArray

from inchmark.core.planning.design import PlannedVisit
from inchmark.core.reading.measured import MeasuredVisit
from inchmark.core.reception import visit as counted
from inchmark.core.reception.bursts import LossRuns
from inchmark.core.reception.visit import VisitFrames, VisitKey, VisitSummary
from inchmark.plan.models import Stop
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study
from inchmark.walk.models import Frame, HandCount, Visit, Walk, WalkUnit

_PACKED = """
    SELECT string_agg(int8send(seq), ''::bytea) AS seq,
           string_agg(CASE WHEN heard THEN '\\x01'::bytea ELSE '\\x00'::bytea END, ''::bytea)
               AS heard,
           string_agg(float8send(coalesce(rssi_dbm, 'NaN')), ''::bytea) AS rssi_dbm,
           string_agg(float8send(coalesce(snr_db, 'NaN')), ''::bytea) AS snr_db,
           string_agg(float8send(coalesce(noise_dbm, 'NaN')), ''::bytea) AS noise_dbm,
           string_agg(float8send(coalesce(extract(epoch FROM time)::float8, 'NaN')), ''::bytea)
               AS time_s,
           string_agg(int8send(file_id * 65536 + pass_number), ''::bytea) AS passes
    FROM (SELECT * FROM walk_frame WHERE visit_id = %s ORDER BY file_id, line_number) AS ordered
"""


def units_of(study: Study) -> dict[tuple[str, str], str]:
    """Return the serial of the unit carried, by walk and rig."""
    rows = WalkUnit.objects.filter(walk__study=study)
    return {
        (str(number), letter): serial
        for number, letter, serial in rows.values_list(
            "walk__number", "rig__letter", "unit__serial"
        )
    }


def frames_of(visit: Visit) -> VisitFrames | None:
    """Return the logged lines of a visit as arrays, packed by the database.

    None if there are none.
    """
    connection.ensure_connection()
    with psycopg.Cursor(
        connection.connection
    ) as cursor:  # Django's own cursor cannot take binary results
        packed = cursor.execute(_PACKED, [visit.pk], binary=True).fetchone()
    seq, heard, *figures, passes = packed or (None, None, None)
    if seq is None:
        return None
    rssi, snr, noise, times = (
        np.frombuffer(one, dtype=">f8").astype(np.float64) for one in figures
    )
    return VisitFrames(
        seq=_integers(seq),
        heard=np.frombuffer(heard, dtype=np.uint8).astype(bool),
        rssi_dbm=rssi,
        snr_db=snr,
        noise_dbm=noise,
        time_s=times,
        passes=_integers(passes),
    )


def latest_counts(visit: Visit) -> list[counted.HandCount]:
    """Return what counts of a visit written by hand: the latest of each pass, if not taken back."""
    latest = {row.pass_number: row for row in counts_of(visit)}
    return [
        counted.HandCount(sent=row.sent, heard=row.heard, rssi_dbm=row.rssi_dbm)
        for _, row in sorted(latest.items())
        if row.sent
    ]


def _integers(packed: bytes) -> NDArray[np.int64]:
    return np.frombuffer(packed, dtype=">i8").astype(np.int64)


def weak_readings(rig_id: int, limit: int = 5000) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return RSSI, S/N and noise of a rig's readings near the noise, to tell what RSSI holds."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT rssi_dbm, snr_db, coalesce(noise_dbm, 'NaN') FROM walk_frame f JOIN "
            "walk_visit v ON v.id = f.visit_id"
            " WHERE v.rig_id = %s AND snr_db < 3 AND rssi_dbm IS NOT NULL LIMIT %s",
            [rig_id, limit],
        )
        rows = np.array(cursor.fetchall(), dtype=np.float64).reshape(-1, 3)
    return rows[:, 0], rows[:, 1], rows[:, 2]


def summary_as_dict(summary: VisitSummary) -> dict[str, Any]:
    """Return a summary as JSON data; `runs` is written as its three parts."""
    found = {f.name: getattr(summary, f.name) for f in fields(summary)}
    runs = found.pop("runs")
    found["runs"] = {
        "length": runs.length,
        "runs": runs.runs,
        "products": [round(x, 5) for x in runs.products.tolist()],
    }
    return found


def summary_from_dict(found: dict[str, Any]) -> VisitSummary:
    """Return the summary a visit stores."""
    values = dict(found)
    runs = values.pop("runs")
    pairs = {
        name: tuple(tuple(pair) for pair in values.pop(name))
        for name in ("level_counts", "rssi_counts", "strip")
    }
    values.pop("noise_in_rssi", None)
    return VisitSummary(
        **values,
        **pairs,
        runs=LossRuns(
            length=runs["length"],
            runs=runs["runs"],
            products=np.array(runs["products"], dtype=np.float64),
        ),
    )


def measured_visit(visit: Visit) -> MeasuredVisit:
    """Return a visit as a reading takes it; rig, stop and walk are already loaded."""
    return MeasuredVisit(
        key=VisitKey(
            rig=visit.rig.letter,
            stop=visit.stop.label,
            condition=visit.condition,
            direction=visit.direction,
            receiver=visit.receiver,
            walk=str(visit.walk.number),
        ),
        distance_m=visit.stop.distance_m,
        summary=summary_from_dict(visit.summary),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class CountRow:
    """A planned visit at one stop: what a log or somebody's hand has of it already."""

    rig: Rig
    pass_number: int
    logged: Visit | None  # with frames of a log, which go before counts
    count: HandCount | None


def _has_frames() -> Exists:
    return Exists(Frame.objects.filter(visit=OuterRef("pk")))


def counts_of(visit: Visit) -> QuerySet[HandCount]:
    """Return everything ever written by hand of a visit, in the order it was typed in."""
    return HandCount.objects.filter(
        walk=visit.walk_id, rig=visit.rig_id, stop=visit.stop_id, condition=visit.condition
    ).select_related("by")


def count_rows(
    walk: Walk, stop: Stop, visits: Sequence[PlannedVisit], condition: str
) -> list[CountRow]:
    """Return the planned visits at a stop in the order of work."""
    rigs = {rig.letter: rig for rig in walk.study.rigs.all()}
    counts = {
        (row.rig_id, row.pass_number): row
        for row in walk.counts.filter(stop=stop, condition=condition)
    }
    logged = {
        visit.rig_id: visit
        for visit in walk.visits.filter(_has_frames(), stop=stop, condition=condition).defer(
            "summary"
        )
    }
    return [
        CountRow(
            rig=rigs[one.rig], pass_number=one.pass_number, logged=logged.get(rigs[one.rig].pk),
            count=counts.get((rigs[one.rig].pk, one.pass_number)),
        )
        for one in visits
        if one.stop == stop.label
    ]  # fmt: skip
