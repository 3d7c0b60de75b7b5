"""Axes and ticks of every drawing: values to places, round steps, the frame a template draws.

A drawing has its origin at the top left of its plot; x grows to the right and y downwards, as in
SVG. Places are in the drawing's own units, or per cent of its width where it says so.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Tick:
    """A place on an axis and what is written there."""

    at: float
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Axis:
    """A stretch of values laid from `start` to `end`, linear or by decades.

    Values beyond the stretch are held at its ends where `held` says so.
    """

    low: float
    high: float
    start: float
    end: float
    logarithmic: bool = False
    held: bool = False
    digits: int = 1

    def at(self, value: float) -> float:
        """Return where a value lies."""
        if self.logarithmic:
            share = math.log(value / self.low) / math.log(self.high / self.low)
        else:
            share = (value - self.low) / ((self.high - self.low) or 1.0)
        if self.held:
            share = min(max(share, 0.0), 1.0)
        return round(self.start + (self.end - self.start) * share, self.digits)

    def ticks(self, values: Iterable[float], label: Callable[[float], str]) -> tuple[Tick, ...]:
        """Return a tick at each value."""
        return tuple(Tick(self.at(value), label(value)) for value in values)

    def round_values(self, about: int) -> list[float]:
        """Return some `about` round values inside the stretch, a 1-2-5 step apart."""
        step = round_step((self.high - self.low) / about)
        first, last = math.ceil(self.low / step - 1e-9), math.floor(self.high / step + 1e-9)
        return [round(i * step, 10) for i in range(first, last + 1)]


def axis_around(values: Sequence[float], start: float, end: float, *, room: float = 0.1) -> Axis:
    """Return a linear axis that holds values with a share of room at both ends."""
    low, high = min(values), max(values)
    more = room * ((high - low) or 1.0)
    return Axis(low=low - more, high=high + more, start=start, end=end)


def round_step(step: float) -> float:
    """Return the 1, 2 or 5 times a power of ten that is nearest above a step."""
    size = 10.0 ** math.floor(math.log10(max(step, 1e-12)))
    return next(size * n for n in (1, 2, 5, 10) if size * n >= step * (1 - 1e-9))


def polyline(points: Iterable[tuple[float, float]]) -> str:
    """Return points as the part of an SVG path after its first M."""
    return "L".join(f"{x:g} {y:g}" for x, y in points)


@dataclass(frozen=True, slots=True)
class PlotFrame:
    """The frame of one drawing: its size, the room for words around it, grid and labels."""

    width: float
    height: float
    left: float = 40.0
    right: float = 20.0
    top: float = 10.0
    bottom: float = 32.0
    x_ticks: tuple[Tick, ...] = ()
    y_ticks: tuple[Tick, ...] = ()

    @property
    def view_box(self) -> str:
        """Return what SVG calls so."""
        across, down = self.left + self.width + self.right, self.top + self.height + self.bottom
        return f"{-self.left:g} {-self.top:g} {across:g} {down:g}"

    @property
    def grid(self) -> str:
        """Return a line across at every tick of the y axis."""
        return "".join(f"M0 {tick.at:g}H{self.width:g}" for tick in self.y_ticks)

    @property
    def words_y(self) -> float:
        """Return where the labels of the x axis stand."""
        return self.height + 22
