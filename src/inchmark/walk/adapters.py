"""Visits as the core knows them: summaries to JSON and back, frames to arrays."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

import numpy as np
from django.db.models import QuerySet
from numpy.typing import NDArray

from inchmark.core.reading.measured import MeasuredVisit
from inchmark.core.reception import visit as counted
from inchmark.core.reception.bursts import LossRuns
from inchmark.core.reception.visit import VisitFrames, VisitKey, VisitSummary
from inchmark.studies.models import Study
from inchmark.walk.models import Frame, HandCount, Visit, WalkUnit


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
    """Return the logged lines of a visit as arrays, None if there are none."""
    seq, heard, *figures, passes = Frame.objects.packed(visit.pk)
    if seq is None or heard is None or passes is None:
        return None
    rssi, snr, noise, times = (
        np.frombuffer(one or b"", dtype=">f8").astype(np.float64) for one in figures
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
    rows = np.array(Frame.objects.weak(rig_id, limit), dtype=np.float64).reshape(-1, 3)
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
    pairs: dict[str, Any] = {
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
        ref=visit.pk,
    )


def counts_of(visit: Visit) -> QuerySet[HandCount]:
    """Return everything ever written by hand of a visit, in the order it was typed in."""
    return HandCount.objects.filter(
        walk=visit.walk_id, rig=visit.rig_id, stop=visit.stop_id, condition=visit.condition
    ).select_related("by")
