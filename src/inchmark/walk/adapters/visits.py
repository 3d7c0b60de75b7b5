"""Visits as the core knows them: summaries to JSON and back, frames to arrays."""

from __future__ import annotations

from dataclasses import fields, is_dataclass
from typing import Any

import numpy as np
from django.db.models import QuerySet

from inchmark.core.reading.measured import MeasuredVisit
from inchmark.core.reception import visit as counted
from inchmark.core.reception.bursts import LossRuns
from inchmark.core.reception.changes import Stretch
from inchmark.core.reception.level_runs import LevelRuns
from inchmark.core.reception.position import Position
from inchmark.core.reception.strip import StripMark
from inchmark.core.reception.visit import VisitChange, VisitKey, VisitSummary
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


def units_by_rig(study: Study) -> dict[str, str]:
    """Return the unit a rig carried, where it was the same one on every walk."""
    found: dict[str, set[str]] = {}
    for (_, letter), serial in units_of(study).items():
        found.setdefault(letter, set()).add(serial)
    return {letter: own.pop() for letter, own in found.items() if len(own) == 1}


def latest_counts(visit: Visit) -> list[counted.HandCount]:
    """Return what counts of a visit written by hand: the latest of each pass, if not taken back."""
    latest = {row.pass_number: row for row in counts_of(visit)}
    return [
        counted.HandCount(sent=row.sent, heard=row.heard, rssi_dbm=row.rssi_dbm)
        for _, row in sorted(latest.items())
        if row.sent
    ]


def weak_readings(rig_id: int, limit: int = 5000) -> tuple[np.ndarray, ...]:
    """Return RSSI, S/N, noise and visit of a rig's readings near the noise.

    To tell what RSSI holds.
    """
    rows = np.array(Frame.objects.weak(rig_id, limit), dtype=np.float64).reshape(-1, 4)
    return tuple(rows.T)


SUMMARY_VERSION = 3  # raised when a summary says more; older ones are summed up again


def summary_as_dict(summary: VisitSummary) -> dict[str, Any]:
    """Return a summary as JSON data."""
    found: dict[str, Any] = _plain(summary)
    return found | {"version": SUMMARY_VERSION}


def _plain(value: Any) -> Any:
    if isinstance(value, np.ndarray):
        return [round(float(x), 5) for x in value]
    if isinstance(value, tuple) and value and is_dataclass(value[0]):
        return [_plain(one) for one in value]
    if is_dataclass(value):
        return {f.name: _plain(getattr(value, f.name)) for f in fields(value)}
    if isinstance(value, float) and not np.isfinite(value):
        return None
    return value


def summary_from_dict(found: dict[str, Any]) -> VisitSummary:
    """Return the summary a visit stores; figures an older one lacks are left at their defaults."""
    known = {f.name for f in fields(VisitSummary)}
    values = {name: value for name, value in found.items() if name in known}
    for name in ("level_counts", "rssi_counts", "strip", "heard_map", "by_snr"):
        values[name] = tuple(tuple(part) for part in values.get(name, ()))
    values["strip_marks"] = tuple(StripMark(**mark) for mark in values.get("strip_marks", ()))
    if values.get("position"):
        values["position"] = Position(**values["position"])
    values["runs"] = LossRuns(**_arrays(values["runs"], "products"))
    if "level_runs" in values:
        values["level_runs"] = LevelRuns(**_arrays(values["level_runs"], "products", "pairs"))
    change = values.get("change")
    if change:
        score = change["stretch"]["score"]
        stretch = Stretch(**change["stretch"] | {"score": float("inf") if score is None else score})
        values["change"] = VisitChange(stretch=stretch, rest=summary_from_dict(change["rest"]))
    return VisitSummary(**values)


def _arrays(found: dict[str, Any], *names: str) -> dict[str, Any]:
    return found | {name: np.array(found[name], dtype=np.float64) for name in names}


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
