"""A path from the side: ground, sight line, first Fresnel zone, and what stands in the way."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.path_view import PathView
from inchmark.core.wording import distance
from inchmark.pages.plot import Axis, PlotFrame, polyline

WIDTH, HEIGHT = 900.0, 260.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PathDrawing:
    """A path laid out for drawing."""

    frame: PlotFrame
    ground: str
    line: str
    zone: str
    ends: tuple[tuple[float, float, float], ...]  # x, y of the ground, y of the antenna
    worst: tuple[float, float]
    break_x: float | None
    obstacles: tuple[tuple[float, float, str], ...]


def drawing_of(view: PathView) -> PathDrawing:
    """Return a path view laid out."""
    d = view.distance_m
    low = min(float(view.ground_m.min()), float((view.line_m - view.zone_m).min()))
    high = max(float(view.ground_m.max()), float((view.line_m + view.zone_m).max()))
    room = max(0.1 * (high - low), 1.0)
    x = Axis(low=0, high=float(d[-1]), start=0, end=WIDTH)
    y = Axis(low=low - room, high=high + room, start=HEIGHT, end=0)

    def path(heights: Floats, order: int = 1) -> str:
        pairs = zip(d[::order].tolist(), heights[::order].tolist(), strict=True)
        return polyline((x.at(metres), y.at(height)) for metres, height in pairs)

    zone = f"{path(view.line_m + view.zone_m)}L{path(view.line_m - view.zone_m, -1)}"
    return PathDrawing(
        frame=PlotFrame(
            width=WIDTH,
            height=HEIGHT,
            left=46,
            right=26,
            top=14,
            bottom=38,
            x_ticks=x.ticks(x.round_values(5), distance),
            y_ticks=y.ticks(y.round_values(4), lambda metres: f"{metres:g}"),
        ),
        ground=f"M0 {HEIGHT}L{path(view.ground_m)}L{WIDTH} {HEIGHT}Z",
        line=f"M{path(view.line_m)}",
        zone=f"M{zone}Z",
        ends=tuple(
            (x.at(float(d[i])), y.at(float(view.ground_m[i])), y.at(float(view.line_m[i])))
            for i in (0, -1)
        ),
        worst=(x.at(float(d[view.worst])), y.at(float(view.ground_m[view.worst]))),
        break_x=x.at(view.break_m) if view.break_m < d[-1] else None,
        obstacles=tuple(
            (
                x.at(one.distance_m),
                y.at(float(np.interp(one.distance_m, d, view.ground_m))),
                f"{one.loss_db:.1f} dB",
            )
            for one in view.obstacles
        ),
    )
