"""Notes on what visits counted: what was heard, what the counter did, what frames are worth."""

from __future__ import annotations

from collections.abc import Iterator

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.notes.places import about, places, where
from inchmark.core.reading.result import FACT, Note
from inchmark.core.reading.rules import BURSTY_TAU, FEW_FRAMES, FEW_VISITS_TAU, SURVIVOR_DB
from inchmark.core.reception.proportion import zero_loss_frames
from inchmark.core.wording import decibels, distance, level, number, percent, plural

SHORT_VISIT = 3.0  # times tau of the level: shorter, a visit cannot know its level


def survivors_strong(analysis: Analysis) -> Iterator[Note]:
    """Name the visits where the mean of survivors misleads."""
    high = {i: analysis.reads_high_db(i) for i in range(len(analysis.visits))}
    found = sorted((i for i, db in high.items() if db >= SURVIVOR_DB), key=lambda i: -high[i])
    if not found:
        return
    worst = found[0]
    s, mean = analysis.used[worst], analysis.level_of(worst)
    off = (mean.high - mean.estimate) if mean else 0.0
    others = (
        f" So it does, less, for {places([analysis.visits[i] for i in found[1:]])}."
        if found[1:]
        else ""
    )
    yield about(
        analysis,
        found,
        "survivors_strong",
        f"Survivors look strong at {plural(len(found), 'visit')}",
        f"{where(analysis.visits[worst])}: {s.lost} of {plural(s.sent, 'frame')} were lost. The mean of those that arrived reads {decibels(high[worst], sign=False)} (±{number(off)}) too high; the fit counts the lost ones as below threshold.{others}",
    )


def nothing_heard(analysis: Analysis) -> Iterator[Note]:
    """Say that silence is a result."""
    found = [i for i, v in enumerate(analysis.visits) if v.summary.heard == 0]
    if not found:
        return
    first = analysis.visits[found[0]]
    many = "visit" if len(found) == 1 else "visits"
    yield about(
        analysis,
        found,
        "nothing_heard",
        f"Nothing heard at {len(found)} {many}",
        f"{places([analysis.visits[i] for i in found])}. That is a result: at {distance(analysis.rows[found[0]].distance_m)} {plural(first.summary.sent, 'frame')} went out, the loss is at least {percent(analysis.loss_of(found[0]).low)} and the level lies below the threshold. Such visits are counted, not left out.",
        kind=FACT,
    )


def resets(analysis: Analysis) -> Iterator[Note]:
    """Say where the counter restarted."""
    found = [i for i, v in enumerate(analysis.visits) if v.summary.resets]
    if found:
        found.sort(key=lambda i: -analysis.visits[i].summary.resets)
        most = analysis.visits[found[0]].summary.resets
        yield about(
            analysis,
            found,
            "counter_reset",
            f"The counter restarted at {plural(len(found), 'visit')}",
            f"{places([analysis.visits[i] for i in found])}: the sequence fell back, {plural(most, 'time')} at the first, as after a lost supply or a slipped lead. Frames sent between the last before and the first after are counted only as far as times and the beacon interval tell. Check the lead.",
        )


def copies(analysis: Analysis) -> Iterator[Note]:
    """Say where frames came more than once, or a counter wrapped."""
    found = [i for i, v in enumerate(analysis.visits) if v.summary.duplicates]
    if found:
        count = sum(analysis.visits[i].summary.duplicates for i in found)
        yield about(
            analysis,
            found,
            "duplicates",
            f"{plural(count, 'duplicate')} at {plural(len(found), 'visit')}",
            f"{places([analysis.visits[i] for i in found])}: the same frame arrived more than once, as through a relay or a resend. Each frame counts once.",
            kind=FACT,
        )
    wrapped = [i for i, v in enumerate(analysis.visits) if v.summary.wraps]
    if wrapped:
        yield about(
            analysis,
            wrapped,
            "counter_wrap",
            f"The counter wrapped at {plural(len(wrapped), 'visit')}",
            f"{places([analysis.visits[i] for i in wrapped])}: the sequence ran over its top and went on from zero; nothing was lost by that.",
            kind=FACT,
        )


def few_frames(analysis: Analysis) -> Iterator[Note]:
    """Name the least certain visit."""
    found = [i for i, used in enumerate(analysis.used) if used.sent < FEW_FRAMES]
    if not found:
        return
    found.sort(key=lambda i: analysis.loss_of(i).low - analysis.loss_of(i).high)
    worst = found[0]
    loss, needed = analysis.loss_of(worst), zero_loss_frames(analysis.rules.loss)
    yield about(
        analysis,
        found,
        "few_frames",
        f"Too few frames at {plural(len(found), 'visit')}",
        f"{where(analysis.visits[worst])} sent {analysis.used[worst].sent}: the loss could be {percent(loss.low)} to {percent(loss.high)}. Even with none lost it takes {needed} independent frames to show a loss under {percent(analysis.rules.loss)}.",
        remedy="plan",
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
    """Say what frames are worth where losses come in runs, and how sure that is."""
    if not any(used.lost for used in analysis.used):
        return
    few = len(analysis.visits) < FEW_VISITS_TAU
    if analysis.tau >= BURSTY_TAU:
        unsure = " With so few visits that figure is itself uncertain." if few else ""
        yield Note(
            code="bursty",
            kind=FACT,
            title="Losses come in runs",
            text=f"{number(analysis.tau)} frames are worth one independent frame here, so 100 frames tell as much as {number(100 / analysis.tau, 0)}. The limits are widened for it.{unsure}",
        )


def short_visits(analysis: Analysis) -> Iterator[Note]:
    """Name visits too short to know their level, for neighbouring frames fade together."""
    found = [
        i
        for i, used in enumerate(analysis.used)
        if used.heard_with_level and used.sent < SHORT_VISIT * analysis.level_tau
    ]
    if found:
        yield about(
            analysis,
            found,
            "level_unsure",
            f"{plural(len(found), 'visit')} too short to know its level"
            if len(found) == 1
            else f"{plural(len(found), 'visit')} too short to know their level",
            f"Levels stay alike over {number(analysis.level_tau, 0)} frames here. A visit shorter than three times that cannot know its own mean level: {places([analysis.visits[i] for i in found])}. Send more frames, or move a little while counting.",
            remedy="plan",
        )


MAKERS = (
    resets,
    few_frames,
    survivors_strong,
    short_visits,
    bursty,
    clipped,
    nothing_heard,
    copies,
)
