"""Notes on conditions: where the order of the rigs turns round, and what noise is in a penalty."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.link_model.posterior import summarise
from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.result import FACT, Note
from inchmark.core.wording import decibels, number

WIDE_NOISE_DB = 3.0


def order_turns(analysis: Analysis) -> Iterator[Note]:
    """Say where a condition turns the order of two rigs round, beyond chance."""
    p = analysis.posterior
    if p is None:
        return
    for i, rig in enumerate(analysis.rigs):
        for other in analysis.rigs[:i]:
            links = [(a, b) for a in analysis.links_of(rig) for b in analysis.links_of(other)]
            same = [
                (a, b) for a, b in links if (a.direction, a.receiver) == (b.direction, b.receiver)
            ]
            if not same:
                continue
            before = p.margin(same[0][0]) - p.margin(same[0][1])
            for condition in analysis.conditions[1:]:
                if not {(rig, condition), (other, condition)} <= set(p.data.penalties):
                    continue
                cost = p.penalty_of(rig, condition) - p.penalty_of(other, condition)
                yield from _turned(rig, other, condition, before, before - cost, analysis)


def _turned(
    rig: str, other: str, condition: str, before: Floats, after: Floats, analysis: Analysis
) -> Iterator[Note]:
    first, then, turn = summarise(before), summarise(after), summarise(before - after)
    if first.estimate * then.estimate >= 0 or then.low <= 0 <= then.high:
        return
    if turn.low <= 0 <= turn.high:
        return
    ahead, behind = (rig, other) if first.estimate > 0 else (other, rig)
    reference = f"In {analysis.conditions[0]}" if analysis.conditions[0] else "As usual"
    yield Note(
        code="order_turns",
        rig=rig,
        title=f"{condition}: the order of {ahead} and {behind} turns round",
        text=f"{reference} {ahead} has {decibels(abs(first.estimate), sign=False)} more margin than {behind}; in “{condition}” {behind} has {decibels(abs(then.estimate), sign=False)} more (the change is {decibels(abs(turn.estimate), sign=False)}, 95 % {number(min(abs(turn.low), abs(turn.high)))} … {number(max(abs(turn.low), abs(turn.high)))}). Choose by the condition the node will be in.",
    )


def noise_differs(analysis: Analysis) -> Iterator[Note]:
    """Say that visits were made in unequal noise, and how that is dealt with."""
    p = analysis.posterior
    known = [u.noise_mean_dbm for u in analysis.used if u.noise_mean_dbm is not None]
    if p is None or len(known) < 2 or float(np.ptp(known)) < WIDE_NOISE_DB:
        return
    at = p.data.reference_noise_dbm or 0.0
    yield Note(
        code="noise_differs",
        kind=FACT,
        title=f"Noise differs by {decibels(float(np.ptp(known)), sign=False)} between visits",
        text=f"Each visit's threshold is moved by its own noise. Ranges and differences hold at {number(at)} dBm; where a site is 10 dB louder, take 10 dB off.",
    )


MAKERS = (order_turns, noise_differs)
