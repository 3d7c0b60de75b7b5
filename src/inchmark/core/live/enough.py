"""Whether a visit has frames enough, and if not how many more it needs.

A visit is over once its loss is known well enough for what is asked: either the whole interval lies
on one side of the study's rule, or it is as narrow as the plan wants it. Losses that come in runs
make each frame worth less, so the interval is the burst-aware one (`core.reception.bursts`).

Somebody who looks after every frame and stops when it suits gives chance many tries: the side of the
rule is therefore asked of a 99 % interval (docs/method.md has what that leaves).
"""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.checks import fraction
from inchmark.core.interval import Interval
from inchmark.core.reception.bursts import LossRuns, autocorrelation_time, loss_interval
from inchmark.core.wording import percent, plural

LEAST = 10  # frames before anything is claimed
SURE = 0.99  # of the side of the rule, for it is looked at again and again
MOST_MORE = 100_000
RUNS_MATTER = 3.0  # frames that are worth one; said from here on


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What a visit is to show: loss within the rule or not, or known to plus or minus `half`."""

    rule_loss: float = 0.1
    half: float = 0.1

    def __post_init__(self) -> None:
        """Refuse shares that are none."""
        fraction("rule_loss", self.rule_loss)
        fraction("half", self.half)


@dataclass(frozen=True, slots=True, kw_only=True)
class Enough:
    """The loss known so far, whether that is enough, and how many frames are missing."""

    loss: Interval
    tau: float
    more: int  # frames still needed, if the next are lost as often as those so far; 0 for enough
    words: str


def enough_of(lost: int, runs: LossRuns, wanted: Wanted) -> Enough:
    """Return whether a visit has frames enough.

    Parameters
    ----------
    lost
        Frames lost of `runs.length` sent, at least one sent.
    """
    sent, tau = runs.length, autocorrelation_time([runs])
    loss = loss_interval(lost, sent, tau=tau)
    if sent >= LEAST and _settled(lost, sent, tau, wanted):
        words = _enough_words(lost / sent, loss, _side(lost, sent, tau, wanted))
        return Enough(loss=loss, tau=tau, more=0, words=words)
    more = _more(lost / sent, sent, tau, wanted)
    worth = f" Losses come in runs: {tau:.0f} frames are worth one." if tau >= RUNS_MATTER else ""
    return Enough(loss=loss, tau=tau, more=more, words=f"{plural(more, 'more frame')}.{worth}")


def _settled(lost: float, sent: float, tau: float, wanted: Wanted) -> bool:
    loss = loss_interval(lost, sent, tau=tau)
    return bool(_side(lost, sent, tau, wanted)) or (loss.high - loss.low) / 2 <= wanted.half


def _side(lost: float, sent: float, tau: float, wanted: Wanted) -> str:
    """Return on which side of the rule the loss lies, empty where that is not sure."""
    sure = loss_interval(lost, sent, tau=tau, confidence=SURE)
    if sure.high <= wanted.rule_loss:
        return f"within {percent(wanted.rule_loss)}"
    return f"over {percent(wanted.rule_loss)}" if sure.low > wanted.rule_loss else ""


def _enough_words(share: float, loss: Interval, side: str) -> str:
    known = f"{percent(share)} lost ({percent(loss.low)} to {percent(loss.high)})"
    return f"Enough: {known}, {side}." if side else f"Enough: {known}."


def _more(share: float, sent: int, tau: float, wanted: Wanted) -> int:
    """Return how many more frames settle it if the share of losses stays: doubled, then halved."""

    def settled(frames: int) -> bool:
        return frames >= LEAST and _settled(share * frames, frames, tau, wanted)

    low, high = sent, 2 * sent
    while not settled(high):
        if high - sent > MOST_MORE:
            return MOST_MORE
        low, high = high, 2 * high
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if settled(middle) else (middle, high)
    return high - sent
