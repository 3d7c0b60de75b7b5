"""Centrings as the core weighs them, and as the page draws them."""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.bench.centring import SATURATED_DBM, Centring, OffsetStep, centre
from inchmark.shelf import models

WIDTH, HEIGHT = 560.0, 120.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Dot:
    """One offset on the drawing, with its counts."""

    offset_hz: float
    sent: int
    heard: int
    x: float
    y: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CentringReading:
    """What a centring says, what is wrong with it, and its drawing."""

    found: Centring | None
    problem: str
    margin_hz: float | None
    small_margin: bool
    saturated: bool
    dots: list[Dot]
    middle_x: float | None
    held_x: float
    held_width: float


def core_steps(check: models.Centring) -> list[OffsetStep]:
    """Return the steps as the core knows them."""
    return [OffsetStep(offset_hz=f, sent=int(n), heard=int(k)) for f, n, k in check.steps]


def reading_of(check: models.Centring) -> CentringReading:
    """Return what a centring says."""
    steps = core_steps(check)
    offsets = [one.offset_hz for one in steps]
    low, high = min(offsets), max(offsets)
    span = (high - low) or 1.0

    def x(hertz: float) -> float:
        return round(WIDTH * (hertz - low) / span, 1)

    found, problem = None, ""
    try:
        found = centre(steps, check.rig.frequency_hz)
    except ValueError as wrong:
        problem = f"{wrong}."
    return CentringReading(
        found=found,
        problem=problem[:1].upper() + problem[1:],
        margin_hz=found.margin_hz(check.drift_ppm) if found else None,
        small_margin=bool(found and found.small_margin(check.drift_ppm)),
        saturated=check.level_dbm is not None and check.level_dbm > SATURATED_DBM,
        dots=[
            Dot(
                offset_hz=one.offset_hz, sent=one.sent, heard=one.heard, x=x(one.offset_hz),
                y=round(HEIGHT * (1 - one.heard / one.sent), 1),
            )
            for one in sorted(steps, key=lambda one: one.offset_hz)
        ],
        middle_x=x(found.middle_hz) if found else None,
        held_x=x(found.low_held_hz) if found else 0.0,
        held_width=x(found.high_held_hz) - x(found.low_held_hz) if found else 0.0,
    )  # fmt: skip
