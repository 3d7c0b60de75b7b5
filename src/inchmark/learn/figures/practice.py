"""Truth beside claim: what held, what was hidden, and which note told it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from inchmark.core.interval import Estimate
from inchmark.core.practice.scenarios import LOOK_ALIKE, ROAD, Scenario
from inchmark.core.practice.truth import SWAPPED_DB, Held, Truth, tally
from inchmark.core.wording import decibels, distance, number

# what each trap is, which notes of a reading tell it, and what to do about it
TOLD = {
    "interference": (
        "Another network raised the noise by 12 dB for a third of the walk",
        ("interference", "noise_differs", "changed_inside"),
        "Walk the near stops again at another hour, or judge each rig at its own noise.",
    ),
    "relay": (
        "A second node repeated frames of A that were not heard",
        ("relayed", "duplicates"),
        "A relayed frame says nothing of the direct link; switch the relay off for the walk.",
    ),
    "saturation": (
        "Close to the mast the receiver read −30 dBm at most and lost half of its frames",
        ("clipped",),
        "Begin farther out, or put an attenuator in the lead.",
    ),
    "bursts": (
        "Frames were lost several in a row, at any level",
        ("bursty", "interference"),
        "Frames in a row are worth less than they count: more stops, not more frames.",
    ),
    "restart": (
        "Board A began anew in the middle, and its counter with it",
        ("counter_reset",),
        "Nothing, if it is noticed: frames after it count from the new number.",
    ),
    ROAD: (
        "One stop’s distance came from a road sign, a third too far",
        ("distance_doubtful",),
        "Take the distance between coordinates for a stop that has them.",
    ),
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class TrapRow:
    """A trap: what it was, what told it on this walk, and what to do about it."""

    what: str
    told: str
    remedy: str
    noticed: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class HeldRow:
    """A truth beside its claim, in words."""

    what: str
    true: str
    claimed: str
    limits: str
    verdict: str
    inside: bool | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """The whole page after the truth is shown."""

    sentence: str
    rows: list[HeldRow]
    traps: list[TrapRow]


def shown(
    scenario: Scenario, truth: Truth, claim: Mapping[str, Any], *, loss: float, places: float
) -> Shown:
    """Return truth beside claim under a study's rule."""
    held = list(_held(truth, claim, loss, places))
    inside, claimed = tally(held)
    best = max(truth.rigs, key=lambda one: truth.range_m(one, loss=loss, places=places))
    reached = distance(truth.range_m(best, loss=loss, places=places))
    score = f"{inside} of {claimed} truths lie within the limits you claimed." if claimed else "You claimed no limits."  # fmt: skip
    return Shown(
        sentence=f"{score} {best} truly reaches farthest, {reached}.",
        rows=[_row(one) for one in held],
        traps=list(_traps(scenario, claim)),
    )


def _held(truth: Truth, claim: Mapping[str, Any], loss: float, places: float) -> Iterator[Held]:
    for rig in sorted(truth.rigs):
        yield Held(
            what=f"range of {rig}", unit="m",
            true=truth.range_m(rig, loss=loss, places=places),
            claimed=_estimate(claim["ranges"].get(rig)),
        )  # fmt: skip
    for rig, against, limits in claim["margins"]:
        if rig in truth.rigs and against in truth.rigs:
            yield Held(
                what=f"{rig} over {against}", unit="dB", true=truth.margin_db(rig, against),
                claimed=_estimate(limits),
            )  # fmt: skip
    yield Held(
        what="path exponent", unit="", true=truth.exponent, claimed=_estimate(claim["exponent"])
    )
    yield Held(
        what="spread between places", unit="dB spread", true=truth.shadowing_db,
        claimed=_estimate(claim["shadowing"]),
    )  # fmt: skip


def _estimate(limits: list[float] | None) -> Estimate | None:
    return Estimate(*limits) if limits else None


def _figure(value: float, unit: str) -> str:
    if unit == "m":
        return distance(value)
    if unit == "dB":
        return decibels(value)
    return decibels(value, sign=False) if unit else number(value, 2)


def _row(one: Held) -> HeldRow:
    if one.claimed is None:
        return HeldRow(
            what=one.what, true=_figure(one.true, one.unit), claimed="nothing claimed", limits="",
            verdict="–", inside=None,
        )  # fmt: skip
    said = [_figure(x, one.unit) for x in (one.claimed.estimate, one.claimed.low, one.claimed.high)]
    return HeldRow(
        what=one.what, true=_figure(one.true, one.unit),
        claimed=said[0], limits=f"{said[1]} to {said[2]}",
        verdict="within your limits" if one.inside else "outside your limits", inside=one.inside,
    )  # fmt: skip


def _traps(scenario: Scenario, claim: Mapping[str, Any]) -> Iterator[TrapRow]:
    titles = dict(reversed(claim["notes"]))
    for trap in scenario.traps:
        if trap == LOOK_ALIKE:
            yield TrapRow(
                what=f"B’s board was a look-alike, {number(SWAPPED_DB, 0)} dB deaf: its antenna is better than it walked",
                told="The close-range check on the shelf tells it: one unit is far under its twins. No walk can.",
                remedy="Take the unit out, and walk B again with one that passed.", noticed=True,
            )  # fmt: skip
            continue
        what, codes, remedy = TOLD[trap]
        title = next((titles[code] for code in codes if code in titles), "")
        told = f"The side note “{title}” told it." if title else "No note told it on your walk: where you stood it did not show."  # fmt: skip
        yield TrapRow(what=what, told=told, remedy=remedy, noticed=bool(title))
