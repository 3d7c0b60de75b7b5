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

    @property
    def ppm(self) -> float:
        """Return the middle in parts per million of the carrier."""
        return 1e6 * self.middle_hz / self.carrier_hz

    @property
    def plus_minus_hz(self) -> float:
        """Return how far off the middle may be: half a step at each edge, taken together [Hz]."""
        low = self.low_held_hz - self.low_lost_hz
        high = self.high_lost_hz - self.high_held_hz
        return math.hypot(low, high) / 4

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
