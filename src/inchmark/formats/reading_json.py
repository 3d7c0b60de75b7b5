"""A reading as the JSON that docs/formats.md describes; others script against it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from inchmark.core.interval import Estimate
from inchmark.core.reading.analysis import MODEL_VERSION
from inchmark.core.reading.expected import PlaceReading, Served
from inchmark.core.reading.result import (
    Bearings,
    Check,
    Curve,
    Difference,
    Flag,
    Guidance,
    LinkReading,
    Needed,
    Note,
    Penalty,
    Reading,
    ReceiverDifference,
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
    found |= _beside(reading)
    if reading.served:
        found |= served_json(reading.served)
    if reading.curves:
        found["curves"] = {curve.rig: _curve(curve) for curve in reading.curves}
    if reading.units:
        found["units"] = [_unit(row) for row in reading.units]
    return found


def _beside(reading: Reading) -> Json:
    """Return links, exchanges, receivers, penalties, flags, bearings and the check."""
    return {
        "links": [_link(one) for one in reading.links],
        "exchange": [
            {"rig": one.rig, "receiver": one.receiver, "range_m": _or_null(one.range_m)}
            for one in reading.exchanges
        ],
        "receivers": [_receiver(one) for one in reading.receivers],
        "penalties": [_penalty(one) for one in reading.penalties],
        "penalty_pairs": [
            {
                "rig": one.rig,
                "condition": one.condition,
                "against": one.against,
                "gained_db": _or_null(one.gained_db),
            }
            for one in reading.penalty_pairs
        ],
        "flags": [_flag(one) for one in reading.flags],
        "bearings": _bearings(reading.bearings),
        "check": _check(reading.check),
        "guidance": _guidance(reading.guidance),
    }


def served_json(served: Sequence[Served]) -> Json:
    """Return what each rig does at the needed places, and how many it serves."""
    return {
        "places": {one.rig: [_place(row) for row in one.places] for one in served},
        "served": {
            one.rig: None
            if one.count is None
            else estimate_json(one.count) | {"of": len(one.places)}
            for one in served
        },
    }


def _place(one: PlaceReading) -> Json:
    return {
        "place": one.place,
        "distance_m": one.distance_m,
        "level_dbm": _or_null(one.level_dbm),
        "in_hand_db": _or_null(one.in_hand_db),
        "share_heard": _or_null(one.share),
        "meets_rule": _or_null(one.meets),
        "measured_at": one.measured_at or None,
        "extrapolated": bool(one.extrapolated),
        "why": list(one.extrapolated),
    }


def _or_null(found: Estimate | None) -> Json | None:
    """Return the three figures, or null where there is no answer."""
    return None if found is None else estimate_json(found)


def _link(one: LinkReading) -> Json:
    return {
        "rig": one.rig,
        "direction": one.direction,
        "receiver": one.receiver,
        "sent": one.sent,
        "heard": one.heard,
        "threshold_dbm": _or_null(one.threshold_dbm),
        "level_dbm": _or_null(one.level_dbm),
        "range_m": {
            "last_heard": one.on_stops.last_heard,
            "loss_rule": _or_null(one.loss_range_m),
            "in_hand": _or_null(one.in_hand_range_m),
        },
        "noise_dbm": one.noise_dbm,
        "edge_shown": one.edge_shown,
        "edge_bracketed": one.edge_bracketed,
        "judged": one.judged,
        "extrapolated": one.extrapolated,
    }


def _receiver(one: ReceiverDifference) -> Json:
    paired = one.paired
    return {
        "receiver": one.receiver,
        "against": one.against,
        "direction": one.direction,
        "db": _or_null(one.level_db),
        "margin_db": _or_null(one.margin_db),
        "paired": None
        if paired is None
        else {
            "both": paired.both,
            "only_receiver": paired.first,
            "only_against": paired.second,
            "neither": paired.neither,
            "difference": _or_null(paired.difference),
            "exact_p": paired.exact_p,
        },
    }


def _penalty(one: Penalty) -> Json:
    return {
        "rig": one.rig,
        "condition": one.condition,
        "level_db": _or_null(one.level_db),
        "noise_db": _or_null(one.noise_db),
        "range_m": _or_null(one.range_m),
    }


def _flag(one: Flag) -> Json:
    keys = ("rig", "stop", "condition", "direction", "receiver", "walk")
    visit = {key: getattr(one, key) for key in keys}
    window = None if one.window is None else {"start": one.window[0], "end": one.window[1]}
    return {"visit": visit, "what": one.what, "window": window, "words": one.words}


def _bearings(found: Bearings | None) -> Json | None:
    if found is None:
        return None
    return {
        "p": found.p,
        "found": found.found,
        "sectors": [
            {
                "from_deg": one.low_deg,
                "to_deg": one.high_deg,
                "stops": one.stops,
                "shadow_db": _or_null(one.shadow_db),
            }
            for one in found.sectors
        ],
    }


def _guidance(found: Guidance | None) -> Json | None:
    if found is None:
        return None
    return {
        "verdict": found.verdict,
        "about": found.about,
        "unit": "dB" if found.in_db else "lg of the range",
        "half_width": found.half_width,
        "half_width_after": found.half_width_after,
        "next_m": found.next_m,
        "next_stop": found.next_label,
        "stops_to_enough": found.stops_to_enough,
        "sentence": found.sentence,
    }


def _check(found: Check | None) -> Json | None:
    if found is None:
        return None
    return {
        "visits": found.visits,
        "outside": found.outside,
        "residual_slope_db": _or_null(found.residual_slope_db),
        "rssi_slopes": [
            {"module": one.module, "slope": _or_null(one.slope), "applied": one.applied}
            for one in found.rssi_slopes
        ],
        "spread_ratio": found.spread_ratio,
        "moves": [
            {
                "rig": one.rig,
                "prior": one.prior,
                "range_m": _or_null(one.range_m),
                "shift": one.shift,
            }
            for one in found.moves
        ],
    }


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
        "frames_per_independent_level": site.frames_per_independent_level,
        "law": site.law,
        "wall_factor": _or_null(site.wall_factor),
        "break_m": site.break_m,
        "noise_dbm": site.noise_dbm,
        "condition": site.condition,
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
        "direction": rig.direction,
        "receiver": rig.receiver,
        "range_of": rig.range_words,
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
        "direction": row.direction,
        "receiver": row.receiver,
        "condition": row.condition,
        "main": row.main,
        "first_better": row.first_better,
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
        "relayed": row.relayed,
        "passes": row.passes,
        "left_out": row.left_out,
        "in_hand": _or_null(row.in_hand),
        "expected_dbm": row.expected_dbm,
        "noise_derived": row.noise_derived,
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
