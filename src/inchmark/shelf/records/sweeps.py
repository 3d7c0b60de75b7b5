"""Stored sweeps as the core knows them, what they say, and what to try next."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from itertools import groupby
from typing import Any

import numpy as np

from inchmark.core.antenna import match as core
from inchmark.core.antenna.trim import NextTrial, Trial, next_trial
from inchmark.shelf.models import Sweep

GOOD_VSWR = 2.0  # common practice: 0.5 dB lost
FLAT_DB = 20.0  # a match this good over a tenth of the frequency is no antenna's
FLAT_SHARE = 0.10
PLOT_WIDTH, PLOT_HEIGHT, VSWR_TOP = 400.0, 150.0, 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepFigures:
    """What one sweep says; band figures are None where the sweep does not cover the band."""

    best_hz: float
    best_vswr: float
    matched_low_hz: float | None
    matched_high_hz: float | None
    vswr_low: float | None
    vswr_centre: float | None
    vswr_high: float | None
    worst_vswr: float | None
    centre_loss_db: float | None
    flat: bool

    @property
    def width_hz(self) -> float:
        """Return the width over which the return loss is 10 dB or more [Hz]."""
        if self.matched_low_hz is None or self.matched_high_hz is None:
            return 0.0
        return self.matched_high_hz - self.matched_low_hz

    @property
    def good(self) -> bool:
        """Tell whether the whole band is matched as is common practice."""
        return self.worst_vswr is not None and self.worst_vswr <= GOOD_VSWR


def core_sweep(sweep: Sweep) -> core.Sweep:
    """Return the sweep as arrays."""
    points = np.array(sweep.points, dtype=np.float64).reshape(-1, 3)
    return core.Sweep(frequency_hz=points[:, 0], reflection=points[:, 1] + 1j * points[:, 2])


def match_at(sweep: Sweep, frequency_hz: float) -> core.Match | None:
    """Return the match at a frequency [Hz], None where the sweep does not reach it."""
    one = core_sweep(sweep)
    if not one.frequency_hz[0] <= frequency_hz <= one.frequency_hz[-1]:
        return None
    return one.match_at(frequency_hz)


def figures_of(sweep: Sweep) -> SweepFigures:
    """Return what a sweep says of its band."""
    one = core_sweep(sweep)
    low, high = sweep.band_low_hz, sweep.band_high_hz
    matched = one.matched_range_hz(10.0)
    covered = one.frequency_hz[0] <= low and high <= one.frequency_hz[-1]
    at = [one.match_at(f) for f in (low, (low + high) / 2, high)] if covered else [None] * 3
    flat = one.matched_range_hz(FLAT_DB)
    return SweepFigures(
        best_hz=float(one.frequency_hz[one.best]),
        best_vswr=float(one.vswr[one.best]),
        matched_low_hz=matched[0] if matched else None,
        matched_high_hz=matched[1] if matched else None,
        vswr_low=at[0].vswr if at[0] else None,
        vswr_centre=at[1].vswr if at[1] else None,
        vswr_high=at[2].vswr if at[2] else None,
        worst_vswr=one.worst_vswr(low, high) if covered else None,
        centre_loss_db=at[1].mismatch_loss_db if at[1] else None,
        flat=bool(flat and flat[1] - flat[0] >= FLAT_SHARE * one.frequency_hz[one.best]),
    )


def chart_data(sweep: Sweep) -> dict[str, Any]:
    """Return what the chart draws: VSWR held at 10, return loss, and the band."""
    one = core_sweep(sweep)
    step = max(len(one.frequency_hz) // 800, 1)
    rows = zip(
        one.frequency_hz[::step],
        np.minimum(one.vswr, 10)[::step],
        one.return_loss_db[::step],
        strict=True,
    )
    return {
        "points": [[float(f) / 1e6, round(float(v), 4), round(float(r), 3)] for f, v, r in rows],
        "band": [sweep.band_low_hz / 1e6, sweep.band_high_hz / 1e6],
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class TrimLog:
    """The sweeps of one series in the order of the value, and the value to try next."""

    series: str
    changed: str
    centre_hz: float
    rows: list[tuple[Sweep, SweepFigures]]
    advice: NextTrial | None
    plot: TrimPlot | None


@dataclass(frozen=True, slots=True, kw_only=True)
class TrimPlot:
    """Best frequency and VSWR at the centre against the value, laid out for drawing."""

    best: list[tuple[float, float, str]]  # x, y, what it says
    vswr: list[tuple[float, float, str]]
    values: list[tuple[float, str]]
    centre_y: float
    next_x: float | None


def trim_logs(sweeps: Iterable[Sweep]) -> list[TrimLog]:
    """Return the trim logs of a study's sweeps."""
    named = sorted((s for s in sweeps if s.series), key=lambda s: (s.series, s.value or 0.0, s.pk))
    return [
        _trim_log(series, list(rows)) for series, rows in groupby(named, key=lambda s: s.series)
    ]


def _trim_log(series: str, sweeps: list[Sweep]) -> TrimLog:
    rows = [(sweep, figures_of(sweep)) for sweep in sweeps]
    last = max(sweeps, key=lambda sweep: sweep.pk)
    centre = (last.band_low_hz + last.band_high_hz) / 2
    trials = [Trial(value=s.value or 0.0, best_hz=f.best_hz) for s, f in rows]
    advice = next_trial(trials, centre)
    return TrimLog(
        series=series,
        changed=last.changed,
        centre_hz=centre,
        rows=rows,
        advice=advice,
        plot=_trim_plot(rows, centre, advice.value if advice else None),
    )


def _trim_plot(
    rows: list[tuple[Sweep, SweepFigures]], centre_hz: float, next_value: float | None
) -> TrimPlot | None:
    if len(rows) < 2:
        return None
    values = [sweep.value or 0.0 for sweep, _ in rows]
    shown = [*values, *([] if next_value is None else [next_value])]
    x = _axis(shown, 0.0, PLOT_WIDTH)
    y = _axis([*(f.best_hz for _, f in rows), centre_hz], PLOT_HEIGHT, 0.0)
    at_centre = [(v, min(f.vswr_centre, VSWR_TOP)) for v, (_, f) in zip(values, rows, strict=True)
                 if f.vswr_centre is not None]  # fmt: skip

    def down(vswr: float) -> float:
        return round(PLOT_HEIGHT * (1 - (vswr - 1) / (VSWR_TOP - 1)), 1)

    return TrimPlot(
        best=[(x(v), y(f.best_hz), f"{f.best_hz / 1e6:.5g}")
              for v, (_, f) in zip(values, rows, strict=True)],
        vswr=[(x(v), down(w), f"{w:.2f}") for v, w in at_centre],
        values=[(x(v), f"{v:g}") for v in values],
        centre_y=y(centre_hz),
        next_x=None if next_value is None else x(next_value),
    )  # fmt: skip


def _axis(values: list[float], start: float, end: float) -> Callable[[float], float]:
    """Return value to place, with a tenth of room at both ends."""
    low, high = min(values), max(values)
    room = 0.1 * ((high - low) or 1.0)
    low, high = low - room, high + room
    return lambda value: round(start + (end - start) * (value - low) / (high - low), 1)
