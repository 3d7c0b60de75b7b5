"""What a centring says, and what is wrong with it."""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.bench.centring import SATURATED_DBM, Centring, OffsetStep, centre
from inchmark.shelf import models
from inchmark.shelf.adapters.bench import core_steps


@dataclass(frozen=True, slots=True, kw_only=True)
class CentringResult:
    """What a centring says, and what is wrong with it; steps go up with the offset."""

    steps: list[OffsetStep]
    found: Centring | None
    problem: str
    margin_hz: float | None
    small_margin: bool
    saturated: bool


def centring_result(check: models.Centring) -> CentringResult:
    """Return what a centring says."""
    steps = core_steps(check)
    found, problem = None, ""
    try:
        found = centre(steps, check.rig.frequency_hz)
    except ValueError as wrong:
        problem = f"{wrong}."
    return CentringResult(
        steps=sorted(steps, key=lambda step: step.offset_hz),
        found=found,
        problem=problem[:1].upper() + problem[1:],
        margin_hz=found.margin_hz(check.drift_ppm) if found else None,
        small_margin=bool(found and found.small_margin(check.drift_ppm)),
        saturated=check.level_dbm is not None and check.level_dbm > SATURATED_DBM,
    )
