"""Charts of one sweep and of a trim log."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np

from inchmark.core.antenna.match import Match
from inchmark.core.antenna.match import Sweep as CoreSweep
from inchmark.core.wording import number
from inchmark.pages.plot import Axis, PlotFrame, Tick, axis_around, polyline
from inchmark.shelf.adapters.sweeps import core_sweep
from inchmark.shelf.models import Sweep

WIDTH, HEIGHT = 400.0, 150.0
SWEEP_WIDTH, SWEEP_HEIGHT = 840.0, 230.0
MARGINS = (56, 30, 14, 36)  # left, right, top, bottom: room for words
VSWR_TOP, VSWR_GOOD = 5.0, 2.0
RULE_DB = 10.0  # the return loss a band is called matched from, common practice
MOST_POINTS = 800


class Drawn(NamedTuple):
    """A sweep to draw, with its label and colour class."""

    label: str
    hue: str
    sweep: Sweep


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepLine:
    """A sweep's curve, its label beside its best match, and its points for a readout."""

    label: str
    hue: str
    path: str
    x: float
    y: float
    points: list[tuple[float, float, float]]  # MHz, VSWR, return loss [dB]


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepChart:
    """Return loss against frequency, of one sweep or of several laid over each other."""

    frame: PlotFrame
    low_mhz: float
    high_mhz: float
    lines: tuple[SweepLine, ...]
    band: tuple[float, float]  # where the band begins, how wide it is
    rule_y: float
    rule: str
    markers: tuple[Tick, ...]
    key: str = "sweep"  # tells charts of one page apart

    @property
    def data_id(self) -> str:
        """Return the id its data stand under."""
        return f"{self.key}-data"

    @property
    def data(self) -> dict[str, Any]:
        """Return what a script reads values out of."""
        return {
            "low": self.low_mhz,
            "high": self.high_mhz,
            "width": self.frame.width,
            "lines": [{"label": one.label, "points": one.points} for one in self.lines],
        }


def sweep_chart(
    drawn: Sequence[Drawn],
    band_hz: tuple[float, float],
    markers_hz: Sequence[float] = (),
    *,
    key: str = "sweep",
) -> SweepChart:
    """Return the chart of sweeps with a band shaded and frequencies marked."""
    cores = [core_sweep(one.sweep) for one in drawn]
    low = min(float(one.frequency_hz[0]) for one in cores)
    high = max(float(one.frequency_hz[-1]) for one in cores)
    x = Axis(low=low / 1e6, high=high / 1e6, start=0, end=SWEEP_WIDTH, held=True)
    deepest = max(float(one.return_loss_db.max()) for one in cores)
    y = Axis(low=0, high=min(max(deepest * 1.05, 15), 40), start=0, end=SWEEP_HEIGHT, held=True)
    words = {mhz: f"{mhz:g}" for mhz in x.round_values(6)}
    vswr = Match.from_return_loss_db(RULE_DB).vswr
    left, right = (x.at(hz / 1e6) for hz in band_hz)
    return SweepChart(
        key=key,
        frame=PlotFrame(
            SWEEP_WIDTH, SWEEP_HEIGHT, 36, 24, 22, 30,
            x_ticks=x.ticks(words, words.__getitem__),
            y_ticks=y.ticks(y.round_values(5), lambda db: f"{db:g}"),
        ),
        low_mhz=x.low,
        high_mhz=x.high,
        lines=tuple(_line(one, core, x, y) for one, core in zip(drawn, cores, strict=True)),
        band=(left, max(right - left, 1.0)),
        rule_y=y.at(RULE_DB),
        rule=f"{RULE_DB:g} dB: VSWR {vswr:.2f}, a tenth of the power comes back",
        markers=tuple(
            Tick(x.at(hz / 1e6), f"{hz / 1e6:.6g}") for hz in markers_hz if low <= hz <= high
        ),
    )  # fmt: skip


def _line(one: Drawn, core: CoreSweep, x: Axis, y: Axis) -> SweepLine:
    step = max(len(core.frequency_hz) // MOST_POINTS, 1)
    rows = [
        (round(float(f) / 1e6, 4), round(float(v), 3), round(float(loss), 2))
        for f, v, loss in zip(
            core.frequency_hz[::step],
            np.minimum(core.vswr, 99)[::step],
            core.return_loss_db[::step],
            strict=True,
        )
    ]
    best = core.best
    return SweepLine(
        label=one.label,
        hue=one.hue,
        path="M" + polyline((x.at(f), y.at(loss)) for f, _, loss in rows),
        x=x.at(float(core.frequency_hz[best]) / 1e6),
        y=min(y.at(float(core.return_loss_db[best])) + 13, SWEEP_HEIGHT - 3),
        points=rows,
    )


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
