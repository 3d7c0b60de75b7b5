"""Close-range checks as the core judges them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
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
from inchmark.core.budget import ItemKey
from inchmark.core.wording import number
from inchmark.shelf.adapters.ends import carried_end, fixed_end
from inchmark.shelf.models import CloseRange

OFF_ON_THE_BENCH = (ItemKey.CARRIED_HOUSING, ItemKey.CARRIED_CARRY)
PARALLEL, CROSSED = "parallel", "crossed"
OWN = "one’s own, as typed"


@dataclass(frozen=True, slots=True, kw_only=True)
class Judged:
    """A reading against its window: level [dBm], how far outside [dB]; no window where none is known."""

    how: str
    level_dbm: float
    distance_m: float
    window: Window | None

    @property
    def off_db(self) -> float:
        """Return how far outside the window it lies [dB]; 0 inside, below 0 too weak."""
        if self.window is None:
            return 0.0
        low, high = self.window.low_dbm, self.window.high_dbm
        return min(self.level_dbm - low, 0.0) or max(self.level_dbm - high, 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Answered:
    """A question of the fault tree with what was swapped and what it gave."""

    question: SwapQuestion
    answer: str
    swapped: str
    gave: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseRangeResult:
    """Whether a pair passes, its windows, what crossing cost, and where the fault tree stands."""

    judged: list[Judged]
    passes: bool
    known: bool  # whether there was a window to judge by
    reading: CloseReading
    overdriven: bool
    question: SwapQuestion | None
    answered: list[Answered]
    verdict: str

    @property
    def window(self) -> Window:
        """Return the first window there is."""
        return next(one.window for one in self.judged if one.window)


def close_range_results(checks: Sequence[CloseRange]) -> list[tuple[CloseRange, CloseRangeResult]]:
    """Return each check with what it says; good units teach the window of the others."""
    return [(check, _reading(check, checks)) for check in checks]


def _reading(check: CloseRange, checks: Sequence[CloseRange]) -> CloseRangeResult:
    judged = [
        Judged(how=how, level_dbm=level, distance_m=_distance(check, how),
               window=_window(check, checks, how))
        for how in (PARALLEL, CROSSED)
        if (level := _level(check, how)) is not None
    ]  # fmt: skip
    known = any(one.window for one in judged)
    module = check.rig.module_part
    ceiling = module.rssi_high_dbm if module else None
    plain = {key: _answer(what) for key, what in check.answers.items()}
    return CloseRangeResult(
        judged=judged,
        passes=known and all(one.off_db == 0 for one in judged),
        known=known,
        reading=CloseReading(
            parallel_dbm=check.parallel_dbm,
            crossed_dbm=check.crossed_dbm,
            alike=_distance(check, PARALLEL) == _distance(check, CROSSED),
        ),
        overdriven=ceiling is not None
        and any(one.window and one.window.high_dbm > ceiling for one in judged),
        question=next_question(plain),
        answered=[_answered(q, check.answers[q.key]) for q in TREE if q.key in check.answers],
        verdict=verdict(plain),
    )


def _answer(what: Mapping[str, object] | str) -> str:
    return what if isinstance(what, str) else str(what.get("answer", ""))


def _answered(question: SwapQuestion, what: Mapping[str, object] | str) -> Answered:
    said: Mapping[str, object] = {} if isinstance(what, str) else what
    gave = said.get("gave_dbm")
    return Answered(
        question=question,
        answer=_answer(what),
        swapped=str(said.get("swapped") or ""),
        gave="" if gave is None else f"{number(float(str(gave)))} dBm",
    )


def _level(check: CloseRange, how: str) -> float | None:
    return check.parallel_dbm if how == PARALLEL else check.crossed_dbm


def _distance(check: CloseRange, how: str) -> float:
    return check.distance_m if how == PARALLEL else check.crossed_distance_m or check.distance_m


def _window(check: CloseRange, checks: Sequence[CloseRange], how: str) -> Window | None:
    """Return the window of a reading: one's own, the learned one, or for parallel free space's."""
    low, high = (
        (check.low_dbm, check.high_dbm)
        if how == PARALLEL
        else (check.crossed_low_dbm, check.crossed_high_dbm)
    )
    if low is not None and high is not None:
        return Window(low_dbm=low, high_dbm=high, source=OWN)
    return _learned(check, checks, how) or (_predicted(check) if how == PARALLEL else None)


def _learned(check: CloseRange, checks: Sequence[CloseRange], how: str) -> Window | None:
    """Return the window good units of the same kind taught at the same distance and power."""
    kind = _kind(check, how)
    alike = [one for one in checks if one.good and one.pk != check.pk and _kind(one, how) == kind]
    levels = [_level(one, how) for one in alike]
    return learned_window([level for level in levels if level is not None])


def _kind(check: CloseRange, how: str) -> tuple[object, ...]:
    rig = check.rig
    return (rig.module, rig.antenna, rig.fixed_antenna, _distance(check, how), check.power_dbm)


def _predicted(check: CloseRange) -> Window:
    """Return the window free space predicts, on the module's own RSSI scale; a housing is off."""
    rig = check.rig
    size = rig.antenna_part.size_m if rig.antenna_part else None
    whole = carried_end(rig)
    bare = tuple(one for one in whole.losses if one.key not in OFF_ON_THE_BENCH)
    window = predicted_window(
        replace(whole, transmit_power_dbm=check.power_dbm, losses=bare),
        fixed_end(rig),
        distance_m=check.distance_m,
        frequency_hz=rig.frequency_hz,
        size_m=size or 0.0,
    )
    offset = rig.rssi_offset_db
    return replace(
        window,
        low_dbm=window.low_dbm + offset,
        high_dbm=window.high_dbm + offset,
        source=window.source if bare == whole.losses else f"{window.source}, housing off",
    )
