"""The loss curve of a conducted ladder with its band and its steps."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from inchmark.core.interval import Estimate
from inchmark.core.wording import number
from inchmark.pages.plot import Axis, PlotFrame, polyline

WIDTH, HEIGHT = 560.0, 220.0


class LossCurveDrawing(NamedTuple):
    """Frames lost against level, laid out."""

    frame: PlotFrame
    curve: str
    band: str
    dots: tuple[tuple[float, float], ...]


def loss_curve_drawing(
    curve: Sequence[tuple[float, Estimate]], steps: Sequence[tuple[float, float]]
) -> LossCurveDrawing:
    """Return a curve (level [dBm], share lost) and steps (level, share lost) laid out."""
    x = Axis(low=curve[0][0], high=curve[-1][0], start=0, end=WIDTH)
    y = Axis(low=0, high=1, start=HEIGHT, end=0)
    low = polyline((x.at(level), y.at(loss.low)) for level, loss in curve)
    high = polyline((x.at(level), y.at(loss.high)) for level, loss in reversed(curve))
    return LossCurveDrawing(
        frame=PlotFrame(
            width=WIDTH,
            height=HEIGHT,
            x_ticks=x.ticks(x.round_values(6), lambda dbm: number(dbm, 0)),
            y_ticks=y.ticks((1, 0.5, 0), lambda share: f"{100 * share:.0f} %"),
        ),
        curve="M" + polyline((x.at(level), y.at(loss.estimate)) for level, loss in curve),
        band=f"M{low}L{high}Z",
        dots=tuple((x.at(level), y.at(loss)) for level, loss in steps),
    )
