"""Trimming: what to try next, from sweeps with one thing changed and its value."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

SAME_VALUE = 1e-3  # of the span of values
WORSE, STILL = 1.1, 1.03  # times the VSWR
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
    fewer than two values, or where the change moved no more than repeats of one value scatter.
    """
    distinct, scatter_hz = _repeats(trials)
    nearest = sorted(distinct, key=lambda trial: abs(trial.best_hz - wanted_hz))[:2]
    if len(nearest) < 2 or abs(nearest[0].best_hz - nearest[1].best_hz) <= scatter_hz:
        return None
    one, two = nearest
    slope = (two.best_hz - one.best_hz) / (two.value - one.value)
    value = one.value + (wanted_hz - one.best_hz) / slope
    values = [trial.value for trial in distinct]
    low, high = min(values), max(values)
    room = MOST_BEYOND * (high - low)
    held = float(np.clip(value, low - room, high + room))
    return NextTrial(value=held, hz_per_unit=slope, held_back=held != value)


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """A trial in the order made: its value, the best VSWR, that at the centre where covered."""

    value: float
    best_vswr: float
    vswr_centre: float | None


def notices(tried: Sequence[Tried]) -> list[str]:
    """Return what a trim's course says, in sentences: a match that got worse, a centre that stands still.

    Told are changes of more than a tenth of the VSWR (worse), and two trials in a row that are not
    better by a thirtieth than the best before (still); common practice, of the order of a repeat.
    """
    found = []
    if len(tried) > 1:
        before, last = min(one.best_vswr for one in tried[:-1]), tried[-1].best_vswr
        if last > WORSE * before:
            found.append(
                f"The best VSWR anywhere got worse, {before:.2f} to {last:.2f}: the last change costs match and does not only move it. Check joints and ground, or go back."
            )
    centre = [one.vswr_centre for one in tried if one.vswr_centre is not None]
    if len(centre) > 2 and min(centre[-2:]) > min(centre[:-2]) / STILL:
        found.append(
            f"The centre has not improved for two trials (VSWR {centre[-2]:.2f} and {centre[-1]:.2f}, best {min(centre):.2f}). Stop here, or change another thing."
        )
    return found


def _repeats(trials: Sequence[Trial]) -> tuple[list[Trial], float]:
    """Return one trial for each value, repeats averaged, and how far repeats lay apart [Hz].

    Values closer than a thousandth of the span are one value: nobody trims finer than that.
    """
    ordered = sorted(trials, key=lambda trial: trial.value)
    span = ordered[-1].value - ordered[0].value if ordered else 0.0
    groups: list[list[Trial]] = []
    for trial in ordered:
        if groups and trial.value - groups[-1][0].value <= SAME_VALUE * span:
            groups[-1].append(trial)
        else:
            groups.append([trial])
    scatter = max((float(np.ptp([one.best_hz for one in group])) for group in groups), default=0.0)
    means = [
        Trial(
            value=float(np.mean([one.value for one in group])),
            best_hz=float(np.mean([one.best_hz for one in group])),
        )
        for group in groups
    ]
    return means, scatter
