"""Options as a chart of two columns, with the limits of the places served."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from inchmark.pages.plot import PlotFrame, axis_around

WIDTH, HEIGHT = 840.0, 320.0
MOST_DRAWN = 1500


@dataclass(frozen=True, slots=True, kw_only=True)
class Given:
    """A point to draw: both values, limits of each where there are any, whether it stands out."""

    x: float
    y: float
    x_limits: tuple[float, float] | None
    y_limits: tuple[float, float] | None
    stands_out: bool
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OptionPoint:
    """A point with its whiskers as a path, empty without limits."""

    x: float
    y: float
    whiskers: str
    stands_out: bool
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OptionChart:
    """The chart; `left_out` is how many points were too many to draw."""

    frame: PlotFrame
    points: list[OptionPoint]
    x_title: str
    y_title: str
    left_out: int


def option_chart(
    given: Sequence[Given], x_title: str, y_title: str, number: Callable[[float], str]
) -> OptionChart | None:
    """Return the chart; None without a point. What stands out is drawn last, on top, and never left out."""
    if not given:
        return None
    known = sorted(given, key=lambda one: one.stands_out)[-MOST_DRAWN:]
    x = axis_around([v for one in known for v in (one.x, *(one.x_limits or ()))], 0, WIDTH)
    y = axis_around([v for one in known for v in (one.y, *(one.y_limits or ()))], HEIGHT, 0)
    points = []
    for one in known:
        at, up = x.at(one.x), y.at(one.y)
        whiskers = ""
        if one.stands_out and one.x_limits:
            whiskers += f"M{x.at(one.x_limits[0])} {up}H{x.at(one.x_limits[1])}"
        if one.stands_out and one.y_limits:
            whiskers += f"M{at} {y.at(one.y_limits[0])}V{y.at(one.y_limits[1])}"
        points.append(
            OptionPoint(x=at, y=up, whiskers=whiskers, stands_out=one.stands_out, label=one.label)
        )
    frame = PlotFrame(
        WIDTH, HEIGHT, 56, 24, 12, 34,
        x_ticks=x.ticks(x.round_values(8), number), y_ticks=y.ticks(y.round_values(6), number),
    )  # fmt: skip
    return OptionChart(
        frame=frame, points=points, x_title=x_title, y_title=y_title,
        left_out=len(given) - len(known),
    )  # fmt: skip
