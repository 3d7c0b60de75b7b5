"""Centring a receiver: the middle of the two offsets at which the link is lost.

Looking for the strongest RSSI at arm's length finds nothing: inside the receiver's bandwidth
the level hardly depends on the offset, and close by everything arrives.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import positive, within

HELD_SHARE = 0.5
SATURATED_DBM = -30.0  # common practice: weaker than this no receiver is overdriven
ROOM = 1.5  # half-width over what crystals may move before a margin is called small


@dataclass(frozen=True, slots=True, kw_only=True)
class OffsetStep:
    """One offset tried [Hz]: frames sent and heard."""

    offset_hz: float
    sent: int
    heard: int

    def __post_init__(self) -> None:
        """Refuse a step without frames, and more heard than sent."""
        within("sent", self.sent, 1, 1_000_000)
        within("heard", self.heard, 0, self.sent)

    @property
    def held(self) -> bool:
        """Tell whether the link held: at least half of the frames arrived."""
        return self.heard >= HELD_SHARE * self.sent


@dataclass(frozen=True, slots=True, kw_only=True)
class Centring:
    """What the steps say; offsets and widths [Hz]."""

    low_held_hz: float
    high_held_hz: float
    low_lost_hz: float
    high_lost_hz: float
    middle_hz: float
    half_width_hz: float
    step_hz: float
    carrier_hz: float
    apart_hz: float | None = None

    @property
    def ppm(self) -> float:
        """Return the middle in parts per million of the carrier."""
        return 1e6 * self.middle_hz / self.carrier_hz

    @property
    def plus_minus_hz(self) -> float:
        """Return how far off the middle may be [Hz].

        Half a step at each edge, taken together; of edges alone half of what the two directions'
        middles lie apart, and at least half a step.
        """
        low = self.low_held_hz - self.low_lost_hz
        high = self.high_lost_hz - self.high_held_hz
        return math.hypot(low, high) / 4 if self.apart_hz is None else self.apart_hz

    def margin_hz(self, drift_ppm: float) -> float:
        """Return what is left to the nearer edge when both crystals drift apart [Hz]."""
        within("drift_ppm", drift_ppm, 0, 1000)
        return self.half_width_hz - drift_ppm * 1e-6 * self.carrier_hz

    def small_margin(self, drift_ppm: float) -> bool:
        """Tell whether the nearer edge is within 1.5 times the drift."""
        return self.half_width_hz < ROOM * drift_ppm * 1e-6 * self.carrier_hz


def centre(steps: Sequence[OffsetStep], carrier_hz: float) -> Centring:
    """Return the middle of the stretch in which the link held, rounded towards the inside.

    Raises
    ------
    ValueError
        The link never held, held in two stretches, or an edge was not reached.
    """
    carrier = float(positive("carrier_hz", carrier_hz))
    merged = _merged(steps)
    held = [one.held for one in merged]
    if True not in held:
        raise ValueError("the link held at no offset: begin where frames arrive")
    first, last = held.index(True), len(held) - 1 - held[::-1].index(True)
    if not all(held[first : last + 1]):
        gap = next(one for one in merged[first : last + 1] if not one.held)
        raise ValueError(
            f"the link was lost at {gap.offset_hz / 1e3:g} kHz and held on both sides of it: repeat that step with more frames"
        )
    if first == 0 or last == len(held) - 1:
        side = "below" if first == 0 else "above"
        raise ValueError(f"the {side} edge was not reached: step on until the link is lost")
    low, high = merged[first].offset_hz, merged[last].offset_hz
    middle, step = (low + high) / 2, _step(merged)
    rounded = math.copysign(math.floor(abs(middle) / step + 0.5) * step, middle) if step else middle
    rounded = min(max(rounded, low), high) + 0.0
    return Centring(
        low_held_hz=low,
        high_held_hz=high,
        low_lost_hz=merged[first - 1].offset_hz,
        high_lost_hz=merged[last + 1].offset_hz,
        middle_hz=rounded,
        half_width_hz=min(rounded - low, high - rounded),
        step_hz=step,
        carrier_hz=carrier,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Edges:
    """Where a link was lost stepping outwards, and came back stepping inwards; any one unit.

    A receiver holds on to a signal farther out than it finds one, so the two directions differ.
    """

    lost_low: float
    back_low: float
    back_high: float
    lost_high: float

    def __post_init__(self) -> None:
        """Refuse edges that cross: lost lies outside of back, low lies under high."""
        if not self.lost_low <= self.back_low < self.back_high <= self.lost_high:
            raise ValueError(
                f"the edges cross: lost at {self.lost_low:g}, back at {self.back_low:g}, back at {self.back_high:g}, lost at {self.lost_high:g} must go up in this order"
            )

    @property
    def outwards(self) -> float:
        """Return the middle of where it was lost."""
        return (self.lost_low + self.lost_high) / 2

    @property
    def inwards(self) -> float:
        """Return the middle of where it came back."""
        return (self.back_low + self.back_high) / 2

    @property
    def hysteresis(self) -> tuple[float, float]:
        """Return how far the two directions lie apart at the low and at the high edge."""
        return self.back_low - self.lost_low, self.lost_high - self.back_high


def centre_of_edges(edges: Edges, *, step: float, carrier_hz: float) -> Centring:
    """Return the middle of four edges, to a whole step; `carrier_hz` is in the edges' unit.

    The mean of both directions' middles, each of which a drift between the walks would move its own
    way; the width is that in which the link comes back by itself, the narrower one.
    """
    width = float(positive("step", step))
    middle = (edges.outwards + edges.inwards) / 2
    rounded = math.copysign(math.floor(abs(middle) / width + 0.5) * width, middle) + 0.0
    rounded = min(max(rounded, edges.back_low), edges.back_high)
    return Centring(
        low_held_hz=edges.back_low,
        high_held_hz=edges.back_high,
        low_lost_hz=edges.lost_low,
        high_lost_hz=edges.lost_high,
        middle_hz=rounded,
        half_width_hz=min(rounded - edges.back_low, edges.back_high - rounded),
        step_hz=width,
        carrier_hz=float(positive("carrier_hz", carrier_hz)),
        apart_hz=max(abs(edges.outwards - edges.inwards) / 2, width / 2),
    )


def _merged(steps: Sequence[OffsetStep]) -> list[OffsetStep]:
    """Return the steps by offset; the same offset tried twice counts together."""
    counts: dict[float, tuple[int, int]] = {}
    for one in steps:
        sent, heard = counts.get(one.offset_hz, (0, 0))
        counts[one.offset_hz] = (sent + one.sent, heard + one.heard)
    return [OffsetStep(offset_hz=f, sent=n, heard=k) for f, (n, k) in sorted(counts.items())]


def _step(steps: Sequence[OffsetStep]) -> float:
    """Return the finest step [Hz], what a middle can be set to."""
    offsets = np.array([one.offset_hz for one in steps], dtype=np.float64)
    return float(np.min(np.diff(offsets), initial=np.inf))
