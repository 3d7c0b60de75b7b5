"""Close-range checks as the core judges them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from inchmark.core.bench.close_range import (
    TREE,
    CloseReading,
    SwapQuestion,
    Window,
    learned_window,
    next_question,
    predicted_window,
    verdict,
)
from inchmark.shelf.adapters.ends import carried_end, fixed_end
from inchmark.shelf.models import CloseRange


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseRangeResult:
    """Whether a pair passes, its window, what crossing cost, and where the fault tree stands."""

    window: Window
    passes: bool
    off_db: float  # how far outside the window; 0 inside
    reading: CloseReading
    overdriven: bool
    question: SwapQuestion | None
    answered: list[tuple[SwapQuestion, str]]
    verdict: str


def close_range_results(checks: Sequence[CloseRange]) -> list[tuple[CloseRange, CloseRangeResult]]:
    """Return each check with what it says; good units teach the window of the others."""
    return [(check, _reading(check, checks)) for check in checks]


def _reading(check: CloseRange, checks: Sequence[CloseRange]) -> CloseRangeResult:
    window = _learned(check, checks) or _predicted(check)
    level = check.parallel_dbm
    off = min(level - window.low_dbm, 0.0) or max(level - window.high_dbm, 0.0)
    module = check.rig.module_part
    ceiling = module.rssi_high_dbm if module else None
    return CloseRangeResult(
        window=window,
        passes=window.holds(level),
        off_db=off,
        reading=CloseReading(parallel_dbm=level, crossed_dbm=check.crossed_dbm),
        overdriven=ceiling is not None and window.high_dbm > ceiling,
        question=next_question(check.answers),
        answered=[(q, check.answers[q.key]) for q in TREE if q.key in check.answers],
        verdict=verdict(check.answers),
    )


def _learned(check: CloseRange, checks: Sequence[CloseRange]) -> Window | None:
    """Return the window good units of the same kind taught at the same distance and power."""
    kind = _kind(check)
    alike = [one for one in checks if one.good and one.pk != check.pk and _kind(one) == kind]
    return learned_window([one.parallel_dbm for one in alike])


def _kind(check: CloseRange) -> tuple[object, ...]:
    rig = check.rig
    return (rig.module, rig.antenna, rig.fixed_antenna, check.distance_m, check.power_dbm)


def _predicted(check: CloseRange) -> Window:
    """Return the window free space predicts, on the module's own RSSI scale."""
    rig = check.rig
    size = rig.antenna_part.size_m if rig.antenna_part else None
    window = predicted_window(
        replace(carried_end(rig), transmit_power_dbm=check.power_dbm),
        fixed_end(rig),
        distance_m=check.distance_m,
        frequency_hz=rig.frequency_hz,
        size_m=size or 0.0,
    )
    offset = rig.rssi_offset_db
    return replace(window, low_dbm=window.low_dbm + offset, high_dbm=window.high_dbm + offset)
