"""The outline of a current trace on a logarithmic scale; drawn once, from all samples."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from inchmark.formats.current_trace import read_current
from inchmark.formats.stored import Stored
from inchmark.pages.plot import Axis, PlotFrame, Tick, polyline
from inchmark.shelf.models import CurrentTrace

WIDTH, HEIGHT = 860.0, 200.0
COLUMNS = 430
FLOOR_A = 1e-7
_NAMES = {
    1: "10 A",
    0: "1 A",
    -1: "100 mA",
    -2: "10 mA",
    -3: "1 mA",
    -4: "100 µA",
    -5: "10 µA",
    -6: "1 µA",
    -7: "100 nA",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class TraceOutline:
    """The path of a trace, and a tick at each decade of current."""

    path: str
    ticks: tuple[Tick, ...]
    low: float = 0.0  # decades that the height takes [log10 A]
    high: float = 1.0


STORED = Stored(TraceOutline, version=2)


def outline_of(trace: CurrentTrace) -> TraceOutline:
    """Return the outline kept with a trace, drawn anew where none is."""
    kept = STORED.load(trace.reading.get("outline"))
    if kept is None:
        samples = read_current(bytes(trace.data), shunt_ohm=trace.shunt_ohm)
        kept = trace_outline(samples.current_a)
    return kept


def trace_outline(current_a: NDArray[np.float64]) -> TraceOutline:
    """Return the highest and lowest current in each column of samples, laid out."""
    top = float(np.ceil(np.log10(np.max(current_a))))
    bottom = float(np.floor(np.log10(max(np.percentile(current_a, 1), FLOOR_A))))
    axis = Axis(low=min(bottom, top - 1), high=top, start=HEIGHT, end=0)
    edges = np.linspace(0, len(current_a), min(COLUMNS, len(current_a)) + 1).astype(int)[:-1]
    logs = np.log10(np.maximum(current_a, 10**axis.low))
    tops, bottoms = np.maximum.reduceat(logs, edges), np.minimum.reduceat(logs, edges)
    across = np.round(WIDTH * np.arange(len(edges)) / max(len(edges) - 1, 1)).tolist()
    up = [(x, axis.at(v)) for x, v in zip(across, tops.tolist(), strict=True)]
    down = [(x, axis.at(v)) for x, v in zip(across, bottoms.tolist(), strict=True)][::-1]
    decades = range(int(axis.low), int(axis.high) + 1)
    return TraceOutline(
        path=f"M{polyline([*up, *down])}Z",
        ticks=axis.ticks(decades, lambda decade: _NAMES.get(int(decade), f"1e{decade:g} A")),
        low=axis.low,
        high=axis.high,
    )


def edge_lines(outline: TraceOutline, edges_a: Sequence[float]) -> list[float]:
    """Return how far down the boundaries between levels lie."""
    axis = Axis(low=outline.low, high=outline.high, start=HEIGHT, end=0, held=True)
    return [axis.at(float(np.log10(max(edge, FLOOR_A)))) for edge in edges_a]


def trace_frame(ticks: tuple[Tick, ...]) -> PlotFrame:
    """Return the frame of a trace."""
    return PlotFrame(width=WIDTH, height=HEIGHT, left=64, right=12, bottom=14, y_ticks=ticks)
