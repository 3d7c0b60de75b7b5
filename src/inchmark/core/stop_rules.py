"""Ranges people read off their stops, each on visited stops only and never beyond.

They differ by factors of two to three on one log; showing them side by side is the point.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from inchmark.core.reception.bursts import loss_interval


@dataclass(frozen=True, slots=True, kw_only=True)
class StopCount:
    """One rig at one stop: frames, what they are worth, and the level above the threshold [dB]."""

    distance_m: float
    sent: int
    heard: int
    tau: float
    in_hand_db: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class StopRanges:
    """Farthest distances [m] under each rule; None where not even the nearest stop holds."""

    last_heard: float | None
    contiguous: float | None  # measured loss within the limit at it and all nearer stops
    shown: float | None  # upper limit of the loss within the limit, same walk outwards
    not_refuted: float | None  # lower limit of the loss within the limit, same walk outwards
    in_hand: float | None  # level at least so far above the threshold, same walk outwards


def stop_ranges(
    stops: Sequence[StopCount], *, loss: float = 0.1, in_hand_db: float = 10.0
) -> StopRanges:
    """Return the ranges of one rig from its stops, in any order."""
    ordered = sorted(stops, key=lambda one: one.distance_m)
    limits = [loss_interval(one.sent - one.heard, one.sent, tau=one.tau) for one in ordered]
    heard = [one.distance_m for one in ordered if one.heard]
    return StopRanges(
        last_heard=max(heard, default=None),
        contiguous=_outwards(ordered, [one.heard >= (1 - loss) * one.sent for one in ordered]),
        shown=_outwards(ordered, [limit.high <= loss for limit in limits]),
        not_refuted=_outwards(ordered, [limit.low <= loss for limit in limits]),
        in_hand=_outwards(
            ordered,
            [one.in_hand_db is not None and one.in_hand_db >= in_hand_db for one in ordered],
        ),
    )


def _outwards(stops: Sequence[StopCount], holds: Sequence[bool]) -> float | None:
    """Return the last distance before the first stop that does not hold."""
    reached = None
    for one, fine in zip(stops, holds, strict=True):
        if not fine:
            return reached
        reached = one.distance_m
    return reached
