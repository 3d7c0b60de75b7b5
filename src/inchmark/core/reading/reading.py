"""From measured visits to the reading: fit, rules, visits, differences.

The result is plain data (`Reading.as_dict`), so that it can be stored, printed as JSON and shown
without being computed again.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from inchmark.core.interval import NO_ESTIMATE, Estimate, Interval
from inchmark.core.link_model.data import FitVisit
from inchmark.core.link_model.fit import Fit, fit_link_model
from inchmark.core.link_model.posterior import Posterior, summarise
from inchmark.core.reading.measured import MeasuredVisit, RigFacts, StopFacts
from inchmark.core.reading.rules import (
    EDGE_LOSS,
    EXTRAPOLATION,
    MIN_SPREAD_EXPONENT,
    MIN_STOPS_EXPONENT,
    MIN_STOPS_SHADOWING,
    RangeRules,
)
from inchmark.core.reception.bursts import autocorrelation_time, loss_interval, visit_tau
from inchmark.core.stop_rules import StopCount, stop_ranges

MODEL_VERSION = "1"  # of the link model; raised when a figure could change
SEED = 20_26  # draws are repeatable: the same log gives the same figures
CURVE_POINTS = 48
NONE = dict(NO_ESTIMATE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """All that was read, with the fit behind it (None where nothing could be fitted)."""

    visits: tuple[MeasuredVisit, ...]
    rigs: tuple[str, ...]
    facts: Mapping[str, RigFacts]
    stops: Mapping[str, StopFacts]
    rules: RangeRules
    tau: float
    fit: Fit | None
    why_no_fit: str = ""

    @property
    def posterior(self) -> Posterior | None:
        """Return the fitted posterior, None where nothing could be fitted."""
        return self.fit.posterior if self.fit else None

    @property
    def distances_m(self) -> list[float]:
        """Return the distances of the visited stops, nearest first."""
        return sorted({v.distance_m for v in self.visits})

    def visits_of(self, rig: str) -> list[MeasuredVisit]:
        """Return the visits of a rig."""
        return [v for v in self.visits if v.key.rig == rig]

    def edge_reached(self, rig: str) -> bool:
        """Tell whether some visit lost a share that fixes the threshold."""
        low, high = EDGE_LOSS
        return any(low <= v.summary.lost / v.summary.sent <= high for v in self.visits_of(rig))

    def edge_bracketed(self, rig: str) -> bool:
        """Tell whether the edge lies between visits that lost next to nothing and nearly all."""
        low, high = EDGE_LOSS
        lost = [v.summary.lost / v.summary.sent for v in self.visits_of(rig)]
        return min(lost) < low and max(lost) > high

    def heard(self, rig: str) -> int:
        """Return the frames heard of a rig."""
        return sum(v.summary.heard for v in self.visits_of(rig))

    def threshold_known(self, rig: str) -> bool:
        """Tell whether walk, bench or datasheet says where the rig stops hearing."""
        known = self.facts[rig].prior.sensitivity_dbm is not None
        found = self.edge_reached(rig) or self.edge_bracketed(rig)
        return self.posterior is not None and self.heard(rig) > 0 and (known or found)

    def slope_known(self) -> bool:
        """Tell whether the stops can carry a slope."""
        d = self.distances_m
        return (
            self.posterior is not None
            and len(d) >= MIN_STOPS_EXPONENT
            and d[-1] / d[0] >= MIN_SPREAD_EXPONENT
        )

    def tau_of(self, visit: MeasuredVisit) -> float:
        """Return how many frames of a visit are worth one independent frame."""
        return visit_tau(visit.summary.runs, visit.summary.lost, self.tau)

    def loss_of(self, visit: MeasuredVisit) -> Estimate:
        """Return the loss of a visit [share] with burst-aware limits."""
        s = visit.summary
        limits: Interval = loss_interval(s.lost, s.sent, tau=self.tau_of(visit))
        return Estimate(s.lost / s.sent, limits.low, limits.high)


def read_visits(
    visits: Sequence[MeasuredVisit],
    facts: Mapping[str, RigFacts] | None = None,
    stops: Mapping[str, StopFacts] | None = None,
    *,
    rules: RangeRules | None = None,
    reference_noise_dbm: float | None = None,
) -> Reading:
    """Return the reading of visits, each with at least one frame sent.

    Parameters
    ----------
    facts, stops
        What is known of rigs and stops, by name; missing ones are read without.
    reference_noise_dbm
        Noise [dBm] at which sensitivities hold; the median of the visits if None.
    """
    ordered = tuple(sorted(visits, key=lambda v: (v.distance_m, v.key)))
    rigs = tuple(sorted({v.key.rig for v in ordered}))
    known = dict(facts or {})
    facts = {rig: known.get(rig, RigFacts()) for rig in rigs}
    tau = autocorrelation_time([v.summary.runs for v in ordered])
    fit, why = _fit(ordered, facts, tau, reference_noise_dbm)
    return Reading(
        visits=ordered,
        rigs=rigs,
        facts=facts,
        stops=stops or {},
        rules=rules or RangeRules(),
        tau=tau,
        fit=fit,
        why_no_fit=why,
    )


def _fit(
    visits: Sequence[MeasuredVisit],
    facts: Mapping[str, RigFacts],
    tau: float,
    reference_noise_dbm: float | None,
) -> tuple[Fit | None, str]:
    rows = [
        FitVisit(
            rig=v.key.rig,
            stop=v.key.stop,
            distance_m=v.distance_m,
            condition=v.key.condition,
            summary=v.summary,
        )
        for v in visits
    ]
    if not any(row.summary.heard_with_level for row in rows):
        return None, "No frame was heard with a signal level, so there is no level to fit."
    if len({row.distance_m for row in rows}) < 2:
        return None, "All visits are at one distance, so nothing can be said about distance."
    priors = {rig: one.prior for rig, one in facts.items()}
    random = np.random.default_rng(SEED)
    fit = fit_link_model(
        rows, priors, pooled_tau=tau, random=random, reference_noise_dbm=reference_noise_dbm
    )
    return fit, ""


def as_dict(
    reading: Reading, *, curves: bool = False, needed_m: float | None = None
) -> dict[str, Any]:
    """Return the reading as plain data; None where the data cannot carry an answer.

    `curves` adds delivery and level over distance, `needed_m` what each rig does at that
    distance [m].
    """
    result: dict[str, Any] = {
        "site": _site(reading),
        "rigs": {rig: _rig(reading, rig) for rig in reading.rigs},
        "differences": _differences(reading),
        "visits": [_visit(reading, i) for i in range(len(reading.visits))],
    }
    if curves:
        result["curves"] = {rig: _curve(reading, rig) for rig in reading.rigs}
    if needed_m:
        for rig in reading.rigs:
            result["rigs"][rig]["needed"] = _at(reading, rig, needed_m)
    return result


def _site(reading: Reading) -> dict[str, Any]:
    p, d = reading.posterior, reading.distances_m
    slope, shadowing = NONE, NONE
    if p is not None and reading.slope_known():
        slope = summarise(p.exponent).as_dict()
        if len(d) >= MIN_STOPS_SHADOWING:
            shadowing = summarise(p.shadowing_db).as_dict()
    return {
        "exponent": slope,
        "shadowing_db": shadowing,
        "frames_per_independent_frame": reading.tau,
        "clip_dbm": reading.fit.clip_dbm if reading.fit else None,
        "kept_for_places_db": (
            p.kept_for_places_db(loss=reading.rules.loss, places=reading.rules.places).as_dict()
            if p is not None and reading.slope_known()
            else NONE
        ),
        "penalties_db": _penalties(p),
        "model": MODEL_VERSION,
    }


def _penalties(posterior: Posterior | None) -> dict[str, dict[str, float | None]]:
    if posterior is None:
        return {}
    names = posterior.data.conditions[1:]
    return {n: summarise(posterior.penalty[:, i]).as_dict() for i, n in enumerate(names)}


def _rig(reading: Reading, rig: str) -> dict[str, Any]:
    p, rules = reading.posterior, reading.rules
    threshold, loss_rule, in_hand = NONE, NONE, NONE
    if p is not None and reading.threshold_known(rig):
        threshold = summarise(p.threshold[:, p.data.rigs.index(rig)]).as_dict()
        if reading.slope_known():
            reach = p.loss_range_m(rig, loss=rules.loss, places=rules.places)
            loss_rule = reach.as_dict() if reach else NONE
            in_hand = p.in_hand_range_m(rig, in_hand_db=rules.in_hand_db).as_dict()
    on_stops = asdict(
        stop_ranges(_stop_counts(reading, rig), loss=rules.loss, in_hand_db=rules.in_hand_db)
    )
    farthest = max(v.distance_m for v in reading.visits_of(rig))
    middle = loss_rule["estimate"]
    return {
        "sent": sum(v.summary.sent for v in reading.visits_of(rig)),
        "heard": reading.heard(rig),
        "threshold_dbm": threshold,
        "range_m": {
            "last_heard": on_stops["last_heard"],
            "loss_rule": loss_rule,
            "in_hand": in_hand,
        },
        "on_stops_m": on_stops,
        "edge_reached": reading.edge_reached(rig),
        "extrapolated": middle is not None and middle > EXTRAPOLATION * farthest,
    }


def _stop_counts(reading: Reading, rig: str) -> list[StopCount]:
    """Return one count per stop, in the reference condition where there is one there."""
    by_stop: dict[str, list[int]] = {}
    conditions = reading.posterior.data.conditions if reading.posterior else ()
    for i, v in enumerate(reading.visits):
        carried = conditions and v.key.condition != conditions[0]
        if v.key.rig == rig and not carried:
            by_stop.setdefault(v.key.stop, []).append(i)
    return [_stop_count(reading, indices) for indices in by_stop.values()]


def _stop_count(reading: Reading, indices: list[int]) -> StopCount:
    visits = [reading.visits[i] for i in indices]
    hands = [hand for i in indices if (hand := _in_hand(reading, i)) is not None]
    return StopCount(
        distance_m=visits[0].distance_m,
        sent=sum(v.summary.sent for v in visits),
        heard=sum(v.summary.heard for v in visits),
        tau=max(reading.tau_of(v) for v in visits),
        in_hand_db=float(np.mean(hands)) if hands else None,
    )


def _in_hand(reading: Reading, i: int) -> float | None:
    """Return how far a visit's level lies above the rig's threshold [dB]."""
    p, rig = reading.posterior, reading.visits[i].key.rig
    if p is None or not reading.threshold_known(rig):
        return None
    threshold = float(np.median(p.threshold[:, p.data.rigs.index(rig)]))
    return float(p.visit_level[0, i]) - threshold - float(p.data.noise_shift[i])


def _visit(reading: Reading, i: int) -> dict[str, Any]:
    v, p = reading.visits[i], reading.posterior
    s = v.summary
    censored = NONE
    if p is not None and (s.heard_with_level or reading.threshold_known(v.key.rig)):
        mean, sd = p.visit_level[:, i]
        censored = Estimate(mean, mean - 1.96 * sd, mean + 1.96 * sd).as_dict()
    return {
        **{
            name: getattr(v.key, name)
            for name in ("rig", "stop", "condition", "direction", "receiver", "walk")
        },
        "distance_m": v.distance_m,
        "sent": s.sent,
        "heard": s.heard,
        "loss": reading.loss_of(v).as_dict(),
        "worth_frames": s.sent / reading.tau_of(v),
        "rssi_dbm": {"of_heard": s.rssi_mean_dbm, "censored": censored},
        "noise_dbm": s.noise_mean_dbm,
        "in_hand_db": _in_hand(reading, i),
        "interfered": bool(reading.fit and i in reading.fit.interfered),
        "resets": s.resets,
        "duplicates": s.duplicates,
        "out_of_order": s.out_of_order,
        "wraps": s.wraps,
        "silent_tail": s.silent_tail,
    }


def _differences(reading: Reading) -> list[dict[str, Any]]:
    """Return every rig against the first: margin always, signal within one module type."""
    if len(reading.rigs) < 2:
        return []
    against, p = reading.rigs[0], reading.posterior
    rows = []
    for rig in reading.rigs[1:]:
        both = p is not None and all(reading.threshold_known(one) for one in (rig, against))
        kinds = [reading.facts[one].prior.module_type for one in (rig, against)]
        same = (
            p is not None
            and kinds[0] == kinds[1] != ""
            and min(map(reading.heard, (rig, against))) > 0
        )
        rows.append(
            {
                "rig": rig,
                "against": against,
                "db": p.margin_difference_db(rig, against).as_dict() if p and both else NONE,
                "kind": "margin",
                "signal_db": p.signal_difference_db(rig, against).as_dict() if p and same else NONE,
            }
        )
    return rows


def _at(reading: Reading, rig: str, distance_m: float) -> dict[str, Any]:
    """Return level, level in hand and expected delivery at one distance."""
    p = reading.posterior
    if p is None or not reading.slope_known() or not reading.heard(rig):
        return {"distance_m": distance_m, "level_dbm": NONE, "in_hand_db": NONE, "delivery": NONE}
    known = reading.threshold_known(rig)
    return {
        "distance_m": distance_m,
        "level_dbm": p.path_db(rig, distance_m).as_dict(),
        "in_hand_db": p.in_hand_db(rig, distance_m).as_dict() if known else NONE,
        "delivery": p.delivery(rig, distance_m).as_dict() if known else NONE,
    }


def _curve(reading: Reading, rig: str) -> list[dict[str, float | None]]:
    """Return delivery and level over distance, for drawing."""
    p = reading.posterior
    if p is None or not reading.slope_known():
        return []
    d, known = reading.distances_m, reading.threshold_known(rig)
    rows = []
    for x in np.geomspace(d[0] * 0.8, d[-1] * 1.6, CURVE_POINTS):
        row: dict[str, float | None] = {"distance_m": float(x)}
        figures = {
            "level": p.path_db(rig, x) if reading.heard(rig) else None,
            "delivery": p.delivery(rig, x) if known else None,
        }
        for name, one in figures.items():
            if one is not None:
                row |= {name: one.estimate, f"{name}_low": one.low, f"{name}_high": one.high}
        rows.append(row)
    return rows
