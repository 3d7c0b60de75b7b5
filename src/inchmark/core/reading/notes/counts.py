"""Notes on single visits: what was heard, what the counter did, what the losses are."""

from __future__ import annotations

from collections.abc import Iterator

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.measured import MeasuredVisit
from inchmark.core.reading.result import FACT, Note
from inchmark.core.reading.rules import BURSTY_TAU, FEW_FRAMES, SURVIVOR_DB
from inchmark.core.reception.proportion import zero_loss_frames
from inchmark.core.wording import decibels, distance, level, number, percent, plural


def where(visit: MeasuredVisit) -> str:
    """Return a visit in words."""
    return f"Stop {visit.key.stop}, rig {visit.key.rig}"


def _note(visit: MeasuredVisit, code: str, title: str, text: str, kind: str = "caution") -> Note:
    return Note(
        code=code,
        rig=visit.key.rig,
        stop=visit.key.stop,
        ref=visit.ref,
        kind=kind,
        title=title,
        text=text,
    )


def survivors_strong(analysis: Analysis) -> Iterator[Note]:
    """Name the visit of each rig where the mean of survivors misleads most."""
    worst: dict[str, tuple[float, int]] = {}
    for i, v in enumerate(analysis.visits):
        high = analysis.reads_high_db(i)
        if high >= max(SURVIVOR_DB, worst.get(v.key.rig, (0.0, 0))[0]):
            worst[v.key.rig] = (high, i)
    for high, i in worst.values():
        v = analysis.visits[i]
        yield _note(
            v,
            "survivors_strong",
            f"{where(v)}: survivors look strong",
            f"{v.summary.lost} of {plural(v.summary.sent, 'frame')} were lost. The mean of those that arrived reads {decibels(high, sign=False)} too high; the fit counts the lost ones as below threshold.",
        )


def nothing_heard(analysis: Analysis) -> Iterator[Note]:
    """Say that silence is a result."""
    for v in analysis.visits:
        if v.summary.heard == 0:
            yield _note(
                v,
                "nothing_heard",
                f"{where(v)}: nothing heard",
                f"{plural(v.summary.sent, 'frame')} went out at {distance(v.distance_m)} and none arrived. That is a result: the loss is at least {percent(analysis.loss_of(v).low)} and the level lies below the threshold. It is counted, not left out.",
                FACT,
            )


def counter(analysis: Analysis) -> Iterator[Note]:
    """Say what the counter did."""
    for v in analysis.visits:
        s = v.summary
        if s.resets:
            yield _note(
                v,
                "counter_reset",
                f"{where(v)}: the counter restarted",
                f"The sequence fell back {plural(s.resets, 'time')}, as after a lost supply or a slipped lead. Frames sent between the last before and the first after are counted only as far as times and the beacon interval tell. Check the lead.",
            )
        if s.duplicates:
            yield _note(
                v,
                "duplicates",
                f"{where(v)}: {plural(s.duplicates, 'duplicate')}",
                "The same frame arrived more than once, as through a relay or a resend. Each frame counts once.",
                FACT,
            )
        if s.wraps:
            yield _note(
                v,
                "counter_wrap",
                f"{where(v)}: the counter wrapped",
                "The sequence ran over its top and went on from zero; nothing was lost by that.",
                FACT,
            )


def few_frames(analysis: Analysis) -> Iterator[Note]:
    """Name the least certain visit."""
    few = [v for v in analysis.visits if v.summary.sent < FEW_FRAMES]
    if not few:
        return
    worst = max(few, key=lambda v: analysis.loss_of(v).high - analysis.loss_of(v).low)
    loss, needed = analysis.loss_of(worst), zero_loss_frames(analysis.rules.loss)
    yield _note(
        worst,
        "few_frames",
        f"Too few frames at {plural(len(few), 'visit')}",
        f"{where(worst)} sent {worst.summary.sent}: the loss could be {percent(loss.low)} to {percent(loss.high)}. Even with none lost it takes {needed} independent frames to show a loss under {percent(analysis.rules.loss)}.",
    )


def interfered(analysis: Analysis) -> Iterator[Note]:
    """Name visits whose losses their level does not explain."""
    for i in analysis.fit.interfered if analysis.fit else ():
        v = analysis.visits[i]
        yield _note(
            v,
            "interference",
            f"{where(v)}: losses that level does not explain",
            f"{percent(analysis.loss_of(v).estimate)} lost at {level(v.summary.level_mean_dbm or 0)}: interference, a collision or a restart is likelier than weakness. These losses are left out of the range; the levels are kept.",
        )


def clipped(analysis: Analysis) -> Iterator[Note]:
    """Say where readings stop."""
    if analysis.fit and analysis.fit.clip_dbm is not None:
        yield Note(
            code="clipped",
            kind=FACT,
            title=f"Readings stop at {level(analysis.fit.clip_dbm)}",
            text="Near stops pile up on the receiver's highest reading. Those frames are taken as at least that strong, so they do not flatten the slope.",
        )


def bursty(analysis: Analysis) -> Iterator[Note]:
    """Say what frames are worth where losses come in runs."""
    if analysis.tau >= BURSTY_TAU and any(v.summary.lost for v in analysis.visits):
        yield Note(
            code="bursty",
            kind=FACT,
            title="Losses come in runs",
            text=f"{number(analysis.tau)} frames are worth one independent frame here, so 100 frames tell as much as {number(100 / analysis.tau, 0)}. The limits are widened for it.",
        )


MAKERS = (survivors_strong, nothing_heard, counter, few_frames, interfered, clipped, bursty)
