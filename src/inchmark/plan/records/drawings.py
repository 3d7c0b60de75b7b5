"""A path from the side, laid out for drawing."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.path_view import PathView

WIDTH, HEIGHT = 900.0, 260.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PathDrawing:
    """A path laid out for drawing, with its axis marks."""

    view: PathView
    ground: str
    line: str
    zone: str
    ends: tuple[tuple[float, float, float], tuple[float, float, float]]  # x, ground y, antenna y
    worst_x: float
    worst_y: float
    break_x: float | None
    obstacles: list[tuple[float, float, str]]
    heights: list[tuple[float, str]]
    distances: list[tuple[float, str]]


def drawing_of(view: PathView) -> PathDrawing:
    """Return a path view laid out."""
    d = view.distance_m
    low = min(float(view.ground_m.min()), float((view.line_m - view.zone_m).min()))
    high = max(float(view.ground_m.max()), float((view.line_m + view.zone_m).max()))
    room = max(0.1 * (high - low), 1.0)
    low, high = low - room, high + room

    def x(metres: float) -> float:
        return round(WIDTH * metres / float(d[-1]), 1)

    def y(metres: float) -> float:
        return round(HEIGHT * (1 - (metres - low) / (high - low)), 1)

    def path(heights: np.ndarray, order: int = 1) -> str:
        pairs = zip(d[::order], heights[::order], strict=True)
        return "L".join(f"{x(float(a))} {y(float(b))}" for a, b in pairs)

    above, below = path(view.line_m + view.zone_m), path(view.line_m - view.zone_m, -1)
    at = view.worst
    step = _nice((high - low) / 4)
    marks = np.arange(np.ceil(low / step) * step, high, step)
    across = _nice(float(d[-1]) / 5)
    return PathDrawing(
        view=view,
        ground=f"M0 {HEIGHT}L{path(view.ground_m)}L{WIDTH} {HEIGHT}Z",
        line=f"M{path(view.line_m)}",
        zone=f"M{above}L{below}Z",
        ends=tuple(
            (x(float(d[i])), y(float(view.ground_m[i])), y(float(view.line_m[i]))) for i in (0, -1)
        ),  # type: ignore[arg-type]
        worst_x=x(float(d[at])),
        worst_y=y(float(view.ground_m[at])),
        break_x=x(view.break_m) if view.break_m < d[-1] else None,
        obstacles=[
            (x(one.distance_m), y(float(np.interp(one.distance_m, d, view.ground_m))),
             f"{one.loss_db:.1f} dB")
            for one in view.obstacles
        ],
        heights=[(y(float(m)), f"{round(float(m), 3) + 0:g}") for m in marks],
        distances=[(x(float(m)), f"{m:g}") for m in np.arange(0, float(d[-1]) + 1e-6, across)],
    )  # fmt: skip


def _nice(step: float) -> float:
    """Return 1, 2 or 5 times a power of ten near a step."""
    size = 10 ** np.floor(np.log10(max(step, 1e-6)))
    return float(size * min((1, 2, 5, 10), key=lambda n: abs(n - step / size)))
