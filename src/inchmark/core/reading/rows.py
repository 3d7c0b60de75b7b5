"""The rows of a reading: one for each link, each rig and each visit."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict

import numpy as np

from inchmark.core.link_model import ranges as fitted
from inchmark.core.link_model.data import LinkKey
from inchmark.core.link_model.posterior import summarise
from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.measured import TO_CARRIED
from inchmark.core.reading.ranges import (
    Deciding,
    in_hand_range,
    link_range,
    loss_at_most,
    sensible,
)
from inchmark.core.reading.result import Flag, LinkReading, Needed, RigReading, VisitReading
from inchmark.core.reading.rules import EXTRAPOLATION, SURVIVOR_DB
from inchmark.core.stop_rules import StopCount, StopRanges, stop_ranges
from inchmark.core.wording import distance, percent


def link_reading(analysis: Analysis, link: LinkKey) -> LinkReading:
    """Return what is said of a link."""
    p, indices = analysis.posterior, analysis.indices_of(link)
    heard = sum(analysis.visits[i].summary.heard for i in indices)
    known = p is not None and analysis.threshold_known(link) and analysis.has_levels
    reach = sensible(analysis, link_range(analysis, link))
    farthest = max(analysis.rows[i].distance_m for i in indices)
    column = None if p is None else p.index(link)
    shown = p is not None and heard and analysis.has_levels
    return LinkReading(
        rig=link.rig,
        direction=link.direction,
        receiver=link.receiver,
        sent=sum(analysis.visits[i].summary.sent for i in indices),
        heard=heard,
        threshold_dbm=summarise(p.threshold[:, column]) if p is not None and known else None,
        level_dbm=p.path_db(link, p.data.centre_m) if p is not None and shown else None,
        loss_range_m=reach,
        in_hand_range_m=in_hand_range(analysis, link),
        noise_dbm=_stated_noise_dbm(analysis, link),
        edge_shown=analysis.edge_shown(link),
        edge_bracketed=analysis.edge_bracketed(link),
        extrapolated=reach is not None and reach.estimate > EXTRAPOLATION * farthest,
        on_stops=_on_stops(analysis, link),
    )


def _stated_noise_dbm(analysis: Analysis, link: LinkKey) -> float | None:
    """Return the noise a link's range holds at [dBm]."""
    p = analysis.posterior
    if p is None or p.data.reference_noise_dbm is None:
        return None
    return p.data.reference_noise_dbm + analysis.noise_shift_db(link)


def rig_reading(
    analysis: Analysis, rig: str, decided: Deciding, link: LinkReading, needed_m: float | None
) -> RigReading:
    """Return what is said of a rig, by its deciding link."""
    visits = analysis.visits_of(rig)
    reach = sensible(analysis, decided.reach)
    farthest = max(
        row.distance_m
        for v, row in zip(analysis.visits, analysis.rows, strict=True)
        if v.key.rig == rig
    )
    return RigReading(
        rig=rig,
        sent=sum(v.summary.sent for v in visits),
        heard=analysis.heard(rig),
        threshold_dbm=link.threshold_dbm,
        loss_range_m=reach,
        in_hand_range_m=link.in_hand_range_m,
        on_stops=link.on_stops,
        edge_reached=link.edge_shown,
        extrapolated=reach is not None and reach.estimate > EXTRAPOLATION * farthest,
        needed=needed_at(analysis, decided.link, needed_m) if needed_m else None,
        reference_dbm=_reference_dbm(analysis, decided.link),
        direction=decided.link.direction,
        receiver=decided.link.receiver,
        range_words=decided.words,
        least_words="" if reach else _least_words(analysis, rig),
        farthest_m=farthest,
    )


def _reference_dbm(analysis: Analysis, link: LinkKey) -> float | None:
    """Return the level of a link with no path between [dBm]; the other way it is the other's power."""
    facts = analysis.facts[link.rig]
    if facts.reference_dbm is None or link.direction != TO_CARRIED:
        return facts.reference_dbm
    return facts.reference_dbm + facts.to_carried_db


def _least_words(analysis: Analysis, rig: str) -> str:
    """Return the sentence that can be said where no range can."""
    found = loss_at_most(analysis, rig)
    if found is None:
        return ""
    metres, share = found
    return f"at {distance(metres)} the loss is under {percent(share)}, 95 %"


def _on_stops(analysis: Analysis, link: LinkKey) -> StopRanges:
    """Return the ranges people read off stops, in the reference condition where there is one."""
    by_stop: dict[str, list[int]] = {}
    for i in analysis.indices_of(link):
        if analysis.visits[i].key.condition == analysis.conditions[0]:
            by_stop.setdefault(analysis.visits[i].key.stop, []).append(i)
    return stop_ranges(
        [_stop_count(analysis, indices) for indices in by_stop.values()],
        loss=analysis.rules.loss,
        in_hand_db=analysis.rules.in_hand_db,
    )


def _stop_count(analysis: Analysis, indices: list[int]) -> StopCount:
    hands = [hand.estimate for i in indices if (hand := analysis.in_hand_db(i)) is not None]
    return StopCount(
        distance_m=analysis.rows[indices[0]].distance_m,
        sent=sum(analysis.used[i].sent for i in indices),
        heard=sum(analysis.used[i].heard for i in indices),
        tau=max(analysis.tau_of(i) for i in indices),
        in_hand_db=float(np.mean(hands)) if hands else None,
    )


def visit_reading(analysis: Analysis, i: int) -> VisitReading:
    """Return what is said of a visit."""
    v, p = analysis.visits[i], analysis.posterior
    s, used = v.summary, analysis.used[i]
    hand, high = analysis.in_hand_db(i), analysis.reads_high_db(i)
    return VisitReading(
        **asdict(v.key),
        ref=v.ref,
        distance_m=analysis.rows[i].distance_m,
        sent=s.sent,
        heard=s.heard,
        loss=analysis.loss_of(i),
        worth_frames=used.sent / analysis.tau_of(i),
        heard_level_dbm=s.rssi_mean_dbm,
        level_dbm=analysis.level_of(i),
        heard_reads_high=high >= SURVIVOR_DB,
        noise_dbm=used.noise_mean_dbm if used.noise_readings else None,
        in_hand_db=hand.estimate if hand else None,
        interfered=bool(analysis.fit and i in analysis.fit.interfered),
        resets=s.resets,
        duplicates=s.duplicates,
        out_of_order=s.out_of_order,
        wraps=s.wraps,
        silent_tail=s.silent_tail,
        in_hand=hand,
        expected_dbm=float(p.visits.expected_dbm[i]) if p and analysis.has_levels else None,
        reads_high_db=high,
        noise_derived=s.noise_derived,
        relayed=s.relayed,
        passes=s.passes,
        left_out=s.sent - used.sent,
    )


def flags(analysis: Analysis) -> Iterator[Flag]:
    """Yield what changes how visits count, with the stretch it is about."""
    for i, v in enumerate(analysis.visits):
        change = v.summary.change
        if i in analysis.changed and change is not None:
            stretch = change.stretch
            window = (stretch.start / v.summary.sent, stretch.end / v.summary.sent)
            words = f"{stretch.kind}: {v.summary.sent - analysis.used[i].sent} frames left out"
            yield _flag(analysis, i, "change", window, words)
        if analysis.fit and i in analysis.fit.interfered:
            yield _flag(analysis, i, "interference", None, "losses that level does not explain")
        if v.summary.relayed:
            words = f"{v.summary.relayed} frames came through a relay"
            yield _flag(analysis, i, "relayed", None, words)


def _flag(
    analysis: Analysis, i: int, what: str, window: tuple[float, float] | None, words: str
) -> Flag:
    v = analysis.visits[i]
    return Flag(**asdict(v.key), ref=v.ref, what=what, window=window, words=words)


def needed_at(analysis: Analysis, link: LinkKey, distance_m: float) -> Needed:
    """Return level, level in hand and expected delivery at one distance."""
    p = analysis.posterior
    if p is None or not analysis.slope_known() or not analysis.heard_on(link):
        return Needed(distance_m=distance_m)
    known, margin = analysis.threshold_known(link), analysis.margin_db(p, link)
    p = p.of_rig(link.rig)
    return Needed(
        distance_m=distance_m,
        level_dbm=p.path_db(link, distance_m) if analysis.has_levels else None,
        in_hand_db=fitted.in_hand_db(p, margin, distance_m) if known else None,
        delivery=fitted.delivery(p, margin, distance_m) if known else None,
    )
