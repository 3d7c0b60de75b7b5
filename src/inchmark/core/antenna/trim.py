"""Trimming: what to try next, from sweeps with one thing changed and its value."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

MOST_BEYOND = 0.5  # of the tried span; farther out a straight line is a guess


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """A value tried (length, spacing, …) and the best frequency found with it [Hz]."""

    value: float
    best_hz: float


@dataclass(frozen=True, slots=True, kw_only=True)
class NextTrial:
    """The value to try next, and whether it lies farther out than the trials can tell."""

    value: float
    hz_per_unit: float
    held_back: bool


def next_trial(trials: Sequence[Trial], wanted_hz: float) -> NextTrial | None:
    """Return the value at which the best frequency would be the wanted one [Hz].

    On the straight line through the two trials nearest the wanted one (a resonance moves nearly
    in proportion to a small change); held back to half the tried span beyond the trials. None with
    fewer than two values, or where the change moved nothing.
    """
    distinct = {trial.value: trial for trial in trials}
    nearest = sorted(distinct.values(), key=lambda trial: abs(trial.best_hz - wanted_hz))[:2]
    if len(nearest) < 2 or nearest[0].best_hz == nearest[1].best_hz:
        return None
    one, two = nearest
    slope = (two.best_hz - one.best_hz) / (two.value - one.value)
    value = one.value + (wanted_hz - one.best_hz) / slope
    low, high = min(distinct), max(distinct)
    room = MOST_BEYOND * (high - low)
    held = float(np.clip(value, low - room, high + room))
    return NextTrial(value=held, hz_per_unit=slope, held_back=held != value)
