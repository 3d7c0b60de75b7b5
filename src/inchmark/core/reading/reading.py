"""The reading of measured visits: the fit's answers as records, ranges held to what is possible."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.interval import Estimate
from inchmark.core.link_model.posterior import Posterior, summarise
from inchmark.core.reading.analysis import Analysis, analyse_visits
from inchmark.core.reading.measured import MeasuredVisit, RigFacts, StopFacts
from inchmark.core.reading.notes import notes_of
from inchmark.core.reading.ranges import in_hand_range, loss_range
from inchmark.core.reading.result import (
    Curve,
    CurvePoint,
    Difference,
    Needed,
    Reading,
    RigReading,
    SiteReading,
    VisitReading,
)
from inchmark.core.reading.rules import EXTRAPOLATION, MIN_STOPS_SHADOWING, SURVIVOR_DB, RangeRules
from inchmark.core.reading.units import split_by_unit
from inchmark.core.stop_rules import StopCount, stop_ranges

CURVE_POINTS = 48
NEARER, FARTHER = 0.8, 1.6  # times the nearest and farthest stop: what curves are drawn over


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What is wanted beside the answer: a needed distance [m], curves to draw, units apart.

    Without a needed distance, levels are still wanted at `drawn_m` where it is given. `unit_of`
    gives the serial of the unit carried, by walk and rig.
    """

    needed_m: float | None = None
    drawn_m: float | None = None
    curves: bool = False
    unit_of: Mapping[tuple[str, str], str] | None = None


def read_visits(
    visits: Sequence[MeasuredVisit],
    facts: Mapping[str, RigFacts] | None = None,
    stops: Mapping[str, StopFacts] | None = None,
    *,
    rules: RangeRules | None = None,
    reference_noise_dbm: float | None = None,
    asked: Asked | None = None,
) -> Reading:
    """Return what visits say, each with at least one frame sent.

    Parameters
    ----------
    facts, stops
        What is known of rigs and stops, by name; missing ones are read without.
    reference_noise_dbm
        Noise [dBm] at which sensitivities hold; the median of the visits if None.
    """
    asked = asked or Asked()
    analysis = analyse_visits(
        visits, facts, stops, rules=rules, reference_noise_dbm=reference_noise_dbm
    )
    return Reading(
        rules=analysis.rules,
        needed_m=asked.needed_m,
        site=_site(analysis),
        rigs=tuple(_rig(analysis, rig, asked.needed_m or asked.drawn_m) for rig in analysis.rigs),
        differences=tuple(_differences(analysis)),
        visits=tuple(_visit(analysis, i) for i in range(len(analysis.visits))),
        notes=tuple(notes_of(analysis)),
        curves=tuple(_curves(analysis)) if asked.curves else (),
        units=tuple(split_by_unit(visits, asked.unit_of or {}, facts or {})),
        why_no_fit=analysis.why_no_fit,
    )


def _site(analysis: Analysis) -> SiteReading:
    p, slope = analysis.posterior, analysis.slope_known()
    rules = analysis.rules
    scatter = slope and len(analysis.distances_m) >= MIN_STOPS_SHADOWING
    return SiteReading(
        exponent=summarise(p.exponent) if p is not None and slope else None,
        shadowing_db=summarise(p.shadowing_db) if p is not None and scatter else None,
        kept_for_places_db=(
            p.kept_for_places_db(loss=rules.loss, places=rules.places)
            if p is not None and slope
            else None
        ),
        frames_per_independent_frame=analysis.tau,
        clip_dbm=analysis.fit.clip_dbm if analysis.fit else None,
        penalties_db=tuple(_penalties(p)),
    )


def _penalties(posterior: Posterior | None) -> Iterator[tuple[str, Estimate]]:
    if posterior is not None:
        for i, name in enumerate(posterior.data.conditions[1:]):
            yield name, summarise(posterior.penalty[:, i])


def _rig(analysis: Analysis, rig: str, needed_m: float | None) -> RigReading:
    p, visits = analysis.posterior, analysis.visits_of(rig)
    threshold = None
    if p is not None and analysis.threshold_known(rig):
        threshold = summarise(p.threshold[:, p.data.rigs.index(rig)])
    reach = loss_range(analysis, rig)
    farthest = max(v.distance_m for v in visits)
    return RigReading(
        rig=rig,
        sent=sum(v.summary.sent for v in visits),
        heard=analysis.heard(rig),
        threshold_dbm=threshold,
        loss_range_m=reach,
        in_hand_range_m=in_hand_range(analysis, rig),
        on_stops=stop_ranges(
            _stop_counts(analysis, rig),
            loss=analysis.rules.loss,
            in_hand_db=analysis.rules.in_hand_db,
        ),
        edge_reached=analysis.edge_reached(rig),
        extrapolated=reach is not None and reach.estimate > EXTRAPOLATION * farthest,
        needed=_needed(analysis, rig, needed_m) if needed_m else None,
        reference_dbm=analysis.facts[rig].reference_dbm,
    )


def _stop_counts(analysis: Analysis, rig: str) -> list[StopCount]:
    """Return one count per stop, in the reference condition where there is one there."""
    by_stop: dict[str, list[int]] = {}
    conditions = analysis.posterior.data.conditions if analysis.posterior else ()
    for i, v in enumerate(analysis.visits):
        carried = conditions and v.key.condition != conditions[0]
        if v.key.rig == rig and not carried:
            by_stop.setdefault(v.key.stop, []).append(i)
    return [_stop_count(analysis, indices) for indices in by_stop.values()]


def _stop_count(analysis: Analysis, indices: list[int]) -> StopCount:
    visits = [analysis.visits[i] for i in indices]
    hands = [hand for i in indices if (hand := analysis.in_hand_db(i)) is not None]
    return StopCount(
        distance_m=visits[0].distance_m,
        sent=sum(v.summary.sent for v in visits),
        heard=sum(v.summary.heard for v in visits),
        tau=max(analysis.tau_of(v) for v in visits),
        in_hand_db=float(np.mean(hands)) if hands else None,
    )


def _visit(analysis: Analysis, i: int) -> VisitReading:
    v, p = analysis.visits[i], analysis.posterior
    s, level = v.summary, None
    if p is not None and (s.heard_with_level or analysis.threshold_known(v.key.rig)):
        mean, sd = (float(x) for x in p.visit_level[:, i])
        level = Estimate(mean, mean - 1.96 * sd, mean + 1.96 * sd)
    return VisitReading(
        ref=v.ref,
        rig=v.key.rig,
        stop=v.key.stop,
        condition=v.key.condition,
        direction=v.key.direction,
        receiver=v.key.receiver,
        walk=v.key.walk,
        distance_m=v.distance_m,
        sent=s.sent,
        heard=s.heard,
        loss=analysis.loss_of(v),
        worth_frames=s.sent / analysis.tau_of(v),
        heard_level_dbm=s.rssi_mean_dbm,
        level_dbm=level,
        heard_reads_high=analysis.reads_high_db(i) >= SURVIVOR_DB,
        noise_dbm=s.noise_mean_dbm,
        in_hand_db=analysis.in_hand_db(i),
        interfered=bool(analysis.fit and i in analysis.fit.interfered),
        resets=s.resets,
        duplicates=s.duplicates,
        out_of_order=s.out_of_order,
        wraps=s.wraps,
        silent_tail=s.silent_tail,
    )


def _differences(analysis: Analysis) -> Iterator[Difference]:
    """Yield every rig against the first."""
    p = analysis.posterior
    for rig in analysis.rigs[1:]:
        against = analysis.rigs[0]
        both = all(analysis.threshold_known(name) for name in (rig, against))
        kinds = [analysis.facts[name].prior.module_type for name in (rig, against)]
        heard = min(map(analysis.heard, (rig, against))) > 0
        alike = kinds[0] == kinds[1] != ""
        yield Difference(
            rig=rig,
            against=against,
            margin_db=p.margin_difference_db(rig, against) if p and both else None,
            signal_db=p.signal_difference_db(rig, against) if p and alike and heard else None,
        )


def _needed(analysis: Analysis, rig: str, distance_m: float) -> Needed:
    """Return level, level in hand and expected delivery at one distance."""
    p = analysis.posterior
    if p is None or not analysis.slope_known() or not analysis.heard(rig):
        return Needed(distance_m=distance_m)
    known = analysis.threshold_known(rig)
    return Needed(
        distance_m=distance_m,
        level_dbm=p.path_db(rig, distance_m),
        in_hand_db=p.in_hand_db(rig, distance_m) if known else None,
        delivery=p.delivery(rig, distance_m) if known else None,
    )


def _curves(analysis: Analysis) -> Iterator[Curve]:
    """Yield delivery and level over distance, for drawing."""
    p, d = analysis.posterior, analysis.distances_m
    for rig in analysis.rigs:
        if p is None or not analysis.slope_known():
            yield Curve(rig=rig, points=())
            continue
        heard, known = analysis.heard(rig) > 0, analysis.threshold_known(rig)
        yield Curve(
            rig=rig,
            points=tuple(
                CurvePoint(
                    distance_m=x,
                    level_dbm=p.path_db(rig, x) if heard else None,
                    delivery=p.delivery(rig, x) if known else None,
                )
                for x in np.geomspace(d[0] * NEARER, d[-1] * FARTHER, CURVE_POINTS).tolist()
            ),
        )
