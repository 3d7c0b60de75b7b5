"""A reading as the JSON that docs/formats.md describes; others script against it."""

from __future__ import annotations

import math
from typing import Any

from inchmark.core.interval import Estimate
from inchmark.core.reading.analysis import MODEL_VERSION
from inchmark.core.reading.result import (
    Curve,
    Difference,
    Needed,
    Note,
    Reading,
    RigReading,
    UnitReading,
    VisitReading,
)

Json = dict[str, Any]


def estimate_json(found: Estimate | None) -> Json:
    """Return the three figures, null where there is none or one is infinite."""
    if found is None:
        return {"estimate": None, "low": None, "high": None}
    return {name: _finite(getattr(found, name)) for name in ("estimate", "low", "high")}


def _finite(value: float) -> float | None:
    return float(value) if math.isfinite(value) else None


def reading_json(reading: Reading) -> Json:
    """Return a reading as JSON data; curves and units where it holds them."""
    found: Json = {
        "site": _site(reading),
        "rigs": {one.rig: _rig(one, needed=reading.needed_m is not None) for one in reading.rigs},
        "differences": [_difference(row) for row in reading.differences],
        "visits": [_visit(row) for row in reading.visits],
        "notes": [note_json(note) for note in reading.notes],
    }
    if reading.curves:
        found["curves"] = {curve.rig: _curve(curve) for curve in reading.curves}
    if reading.units:
        found["units"] = [_unit(row) for row in reading.units]
    return found


def note_json(note: Note) -> dict[str, str]:
    """Return a note as JSON data."""
    names = ("code", "title", "text", "kind", "rig", "stop")
    return {name: getattr(note, name) for name in names}


def _site(reading: Reading) -> Json:
    site = reading.site
    return {
        "exponent": estimate_json(site.exponent),
        "shadowing_db": estimate_json(site.shadowing_db),
        "frames_per_independent_frame": site.frames_per_independent_frame,
        "clip_dbm": site.clip_dbm,
        "kept_for_places_db": estimate_json(site.kept_for_places_db),
        "penalties_db": {name: estimate_json(loss) for name, loss in site.penalties_db},
        "model": MODEL_VERSION,
    }


def _rig(rig: RigReading, *, needed: bool) -> Json:
    stops = rig.on_stops
    found: Json = {
        "sent": rig.sent,
        "heard": rig.heard,
        "threshold_dbm": estimate_json(rig.threshold_dbm),
        "range_m": {
            "last_heard": stops.last_heard,
            "loss_rule": estimate_json(rig.loss_range_m),
            "in_hand": estimate_json(rig.in_hand_range_m),
        },
        "on_stops_m": {
            "last_heard": stops.last_heard,
            "contiguous": stops.contiguous,
            "shown": stops.shown,
            "not_refuted": stops.not_refuted,
            "in_hand": stops.in_hand,
        },
        "edge_reached": rig.edge_reached,
        "extrapolated": rig.extrapolated,
    }
    if rig.needed and needed:
        found["needed"] = _needed(rig.needed)
    return found


def _needed(needed: Needed) -> Json:
    return {
        "distance_m": needed.distance_m,
        "level_dbm": estimate_json(needed.level_dbm),
        "in_hand_db": estimate_json(needed.in_hand_db),
        "delivery": estimate_json(needed.delivery),
    }


def _difference(row: Difference) -> Json:
    return {
        "rig": row.rig,
        "against": row.against,
        "db": estimate_json(row.margin_db),
        "kind": "margin",
        "signal_db": estimate_json(row.signal_db),
    }


def _visit(row: VisitReading) -> Json:
    return {
        "rig": row.rig,
        "stop": row.stop,
        "condition": row.condition,
        "direction": row.direction,
        "receiver": row.receiver,
        "walk": row.walk,
        "distance_m": row.distance_m,
        "sent": row.sent,
        "heard": row.heard,
        "loss": estimate_json(row.loss),
        "worth_frames": row.worth_frames,
        "rssi_dbm": {"of_heard": row.heard_level_dbm, "censored": estimate_json(row.level_dbm)},
        "noise_dbm": row.noise_dbm,
        "in_hand_db": row.in_hand_db,
        "interfered": row.interfered,
        "resets": row.resets,
        "duplicates": row.duplicates,
        "out_of_order": row.out_of_order,
        "wraps": row.wraps,
        "silent_tail": row.silent_tail,
    }


def _curve(curve: Curve) -> list[Json]:
    rows = []
    for point in curve.points:
        row: Json = {"distance_m": point.distance_m}
        for name, found in (("level", point.level_dbm), ("delivery", point.delivery)):
            if found is not None:
                row |= {name: found.estimate, f"{name}_low": found.low, f"{name}_high": found.high}
        rows.append(row)
    return rows


def _unit(row: UnitReading) -> Json:
    return {
        "rig": row.rig,
        "unit": row.unit,
        "against": row.against,
        "walks": list(row.walks),
        "same_walks": row.same_walks,
        "sent": row.sent,
        "heard": row.heard,
        "signal_db": estimate_json(row.signal_db),
        "margin_db": estimate_json(row.margin_db),
    }
