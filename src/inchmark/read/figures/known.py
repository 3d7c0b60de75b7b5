"""How a figure of the answer is known: its formula, this study's numbers in it, and where it is explained."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from inchmark.core.interval import Estimate
from inchmark.core.reading.result import Reading, RigReading
from inchmark.core.wording import decibels, distance, level, number, percent, plural


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """One figure: what it is, its formula, the numbers in it, and the section that explains it."""

    what: str
    formula: str
    numbers: str
    section: str


def known_of(reading: Reading | None) -> list[Known]:
    """Return how the figures of an answer are known; none where nothing was fitted."""
    if reading is None or not reading.rigs:
        return []
    return [*_basis(reading), *_in_hand(reading), *_kept(reading), *_ranges(reading), *_apart(reading)]  # fmt: skip


def _basis(reading: Reading) -> Iterator[Known]:
    sent = sum(one.sent for one in reading.visits)
    heard = sum(one.heard for one in reading.visits)
    stops = len({one.stop for one in reading.visits})
    yield Known(
        what="What it stands on",
        formula="every frame sent counts: heard with its level, or lost as one below the threshold",
        numbers=f"{plural(sent, 'frame')} sent, {heard} heard, {plural(len(reading.visits), 'visit')} at {plural(stops, 'stop')}",
        section="why-not-averages",
    )


def _limits(one: Estimate, digits: int = 1) -> str:
    return (
        f"{number(one.estimate, digits)} ({number(one.low, digits)} to {number(one.high, digits)})"
    )


def _in_hand(reading: Reading) -> Iterator[Known]:
    for one in reading.rigs:
        need = one.needed
        if need is None or need.level_dbm is None or need.in_hand_db is None:
            continue
        if one.threshold_dbm is None:
            continue
        yield Known(
            what=f"In hand of {one.rig} at {distance(need.distance_m)}",
            formula="level there − threshold",
            numbers=f"{level(need.level_dbm.estimate)} − ({level(one.threshold_dbm.estimate)}) = {_limits(need.in_hand_db)} dB, 95 %; joint draws, so the limits are not the sums of both",
            section="what-is-answered",
        )


def _kept(reading: Reading) -> Iterator[Known]:
    site, rules = reading.site, reading.rules
    if site.kept_for_places_db is None:
        return
    places = f", σ_places {number(site.shadowing_db.estimate)} dB" if site.shadowing_db else ""
    yield Known(
        what="What the rule needs above the threshold",
        formula="Φ⁻¹(places) σ_L + s Φ⁻¹((1 − loss)/(1 − ε)), σ_L² = σ_places² + σ_rig² + σ_threshold², s² = σ_frames² + w²",
        numbers=f"places {percent(rules.places)}, loss {percent(rules.loss)}{places}: {_limits(site.kept_for_places_db)} dB",
        section="what-is-answered",
    )


def _ranges(reading: Reading) -> Iterator[Known]:
    law = reading.site.law or "a power of distance"
    slope = reading.site.exponent
    for one in reading.rigs:
        if one.loss_range_m is None:
            continue
        fall = f"; on average {decibels(10 * slope.estimate, sign=False)} per ×10" if slope else ""
        yield Known(
            what=f"Range of {one.rig}",
            formula="the distance at which what is in hand falls to what the rule needs",
            numbers=f"by {law}{fall}: {distance(one.loss_range_m.estimate)} ({distance(one.loss_range_m.low)} to {distance(one.loss_range_m.high)}), {_seen(one)}",
            section="what-is-answered",
        )


def _seen(one: RigReading) -> str:
    farthest = f"walked to {distance(one.farthest_m)}" if one.farthest_m else "as walked"
    return f"{farthest}, {one.heard} of {one.sent} heard"


def _apart(reading: Reading) -> Iterator[Known]:
    for one in reading.main_differences:
        if one.margin_db is None:
            continue
        yield Known(
            what=f"{one.rig} over {one.against}",
            formula="(level − threshold) of one less that of the other, stop by stop where both stood",
            numbers=f"{_limits(one.margin_db)} dB, 95 %",
            section="what-is-answered",
        )
