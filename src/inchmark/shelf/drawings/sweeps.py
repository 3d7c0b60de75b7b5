"""Charts of one sweep and of a trim log."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np

from inchmark.core.antenna.match import Match
from inchmark.core.wording import number
from inchmark.pages.plot import Axis, PlotFrame, Tick, axis_around
from inchmark.shelf.adapters.sweeps import core_sweep
from inchmark.shelf.models import Sweep

WIDTH, HEIGHT = 400.0, 150.0
MARGINS = (56, 30, 14, 36)  # left, right, top, bottom: room for words
VSWR_TOP, VSWR_GOOD = 5.0, 2.0
RULE_DB = 10.0  # the return loss a band is called matched from, common practice
MOST_POINTS = 800


def chart_data(sweep: Sweep) -> dict[str, Any]:
    """Return what the chart draws: VSWR held at 10, return loss, the band, and the rule."""
    one = core_sweep(sweep)
    step = max(len(one.frequency_hz) // MOST_POINTS, 1)
    rows = zip(
        one.frequency_hz[::step],
        np.minimum(one.vswr, 10)[::step],
        one.return_loss_db[::step],
        strict=True,
    )
    vswr = Match.from_return_loss_db(RULE_DB).vswr
    return {
        "points": [[float(f) / 1e6, round(float(v), 4), round(float(r), 3)] for f, v, r in rows],
        "band": [sweep.band_low_hz / 1e6, sweep.band_high_hz / 1e6],
        "rule": {
            "db": RULE_DB,
            "words": f"{RULE_DB:g} dB: VSWR {vswr:.2f}, a tenth of the power comes back",
        },
    }


class TrimPoint(NamedTuple):
    """One trial: the value, the best frequency [Hz], the VSWR at the centre where covered."""

    value: float
    best_hz: float
    vswr_centre: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class TrimPlot:
    """A curve against the trimmed value: points with words, a line across, one to try."""

    frame: PlotFrame
    points: tuple[tuple[float, float, str], ...]
    across_y: float | None
    next_x: float | None

    @property
    def line(self) -> str:
        """Return the points as SVG's polyline takes them."""
        return " ".join(f"{x:g},{y:g}" for x, y, _ in self.points)


def trim_plots(
    trials: Sequence[TrimPoint], centre_hz: float, next_value: float | None
) -> tuple[TrimPlot, TrimPlot] | None:
    """Return best frequency and VSWR against the value; None with fewer than two trials."""
    if len(trials) < 2:
        return None
    shown = [trial.value for trial in trials]
    x = axis_around([*shown, *([] if next_value is None else [next_value])], 0, WIDTH)
    y = axis_around([*(trial.best_hz for trial in trials), centre_hz], HEIGHT, 0)
    values = x.ticks(sorted(set(shown)), lambda value: f"{value:g}")
    centre = y.at(centre_hz)
    best = TrimPlot(
        frame=_frame(values, (Tick(centre, f"{centre_hz / 1e6:.5g}"),)),
        points=tuple((x.at(t.value), y.at(t.best_hz), f"{t.best_hz / 1e6:.5g}") for t in trials),
        across_y=centre,
        next_x=None if next_value is None else x.at(next_value),
    )
    down = Axis(low=1, high=VSWR_TOP, start=HEIGHT, end=0, held=True)
    match = TrimPlot(
        frame=_frame(values, down.ticks((VSWR_TOP, VSWR_GOOD, 1), lambda one: number(one, 0))),
        points=tuple(
            (x.at(t.value), down.at(t.vswr_centre), f"{min(t.vswr_centre, VSWR_TOP):.2f}")
            for t in trials
            if t.vswr_centre is not None
        ),
        across_y=None,
        next_x=None,
    )
    return best, match


def _frame(values: tuple[Tick, ...], side: tuple[Tick, ...]) -> PlotFrame:
    return PlotFrame(WIDTH, HEIGHT, *MARGINS, x_ticks=values, y_ticks=side)
