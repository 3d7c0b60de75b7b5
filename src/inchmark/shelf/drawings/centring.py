"""A centring: frames heard at each offset, what was held, and the middle of the two edges."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from inchmark.core.bench.centring import Centring, OffsetStep
from inchmark.core.wording import number
from inchmark.pages.plot import Axis, PlotFrame

WIDTH, HEIGHT = 560.0, 120.0


@dataclass(frozen=True, slots=True, kw_only=True)
class CentringDrawing:
    """A centring laid out: a dot for each offset, a band over what was held, the middle."""

    frame: PlotFrame
    dots: tuple[tuple[float, float], ...]
    held_x: float
    held_width: float
    middle_x: float | None


def centring_drawing(
    steps: Sequence[OffsetStep], found: Centring | None, *, own_steps: float = 0.0
) -> CentringDrawing | None:
    """Return a centring laid out; steps go up with the offset. None where no frames were counted.

    `own_steps` is how much one of the module's own steps is, 0 for offsets in Hz.
    """
    if not steps:
        return None
    unit = own_steps or 1e3
    offsets = [step.offset_hz for step in steps]
    x = Axis(low=offsets[0], high=offsets[-1], start=0, end=WIDTH)
    y = Axis(low=0, high=1, start=HEIGHT, end=0)
    marked = {offsets[0], offsets[-1], *([found.middle_hz] if found else [])}
    return CentringDrawing(
        frame=PlotFrame(
            width=WIDTH,
            height=HEIGHT,
            left=44,
            top=12,
            x_ticks=x.ticks(sorted(marked), lambda hz: number(hz / unit).removesuffix(".0")),
            y_ticks=y.ticks((1, 0.5, 0), lambda share: f"{100 * share:.0f} %"),
        ),
        dots=tuple((x.at(step.offset_hz), y.at(step.heard / step.sent)) for step in steps),
        held_x=x.at(found.low_held_hz) if found else 0.0,
        held_width=x.at(found.high_held_hz) - x.at(found.low_held_hz) if found else 0.0,
        middle_x=x.at(found.middle_hz) if found else None,
    )
