"""Notes on what visits counted: what was heard, what the counter did, what frames are worth."""

from __future__ import annotations

from collections.abc import Iterator

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.measured import StopFacts
from inchmark.core.reading.notes.places import MOST_NAMED, Found, counted
from inchmark.core.reading.result import FACT, Note
from inchmark.core.reading.rules import BURSTY_TAU, FEW_FRAMES, FEW_VISITS_TAU, SURVIVOR_DB
from inchmark.core.reception.proportion import zero_loss_frames
from inchmark.core.wording import decibels, distance, level, listed, number, percent, plural

SHORT_VISIT = 3.0  # times tau of the level: shorter, a visit cannot know its level


def survivors_strong(analysis: Analysis) -> Iterator[Note]:
    """Name the visits where the mean of survivors misleads."""
    high = {i: analysis.reads_high_db(i) for i in range(len(analysis.visits))}
    order = sorted((i for i, db in high.items() if db >= SURVIVOR_DB), key=lambda i: -high[i])
    if not order:
        return
    found, worst, rest = Found(analysis, tuple(order)), order[0], Found(analysis, tuple(order[1:]))
    s, mean = analysis.used[worst], analysis.level_of(worst)
    off = (mean.high - mean.estimate) if mean else 0.0
    others = f" So it does, less, for {rest.places}." if rest.indices else ""
    yield found.note(
        "survivors_strong",
        f"Survivors look strong at {found.many}",
        f"{found.first}: {s.lost} of {plural(s.sent, 'frame')} were lost. The mean of those that arrived reads {decibels(high[worst], sign=False)} (±{number(off)}) too high; the fit counts the lost ones as below threshold.{others}",
    )


def nothing_heard(analysis: Analysis) -> Iterator[Note]:
    """Say that silence is a result."""
    silent = tuple(i for i, v in enumerate(analysis.visits) if v.summary.heard == 0)
    if not silent:
        return
    found, first = Found(analysis, silent), silent[0]
    sent = plural(analysis.visits[first].summary.sent, "frame")
    yield found.note(
        "nothing_heard",
        f"Nothing heard at {found.many}",
        f"{found.places}. That is a result: at {distance(analysis.rows[first].distance_m)} {sent} went out, the loss is at least {percent(analysis.loss_of(first).low)} and the level lies below the threshold. Such visits are counted, not left out.",
        kind=FACT,
    )


def untold(analysis: Analysis) -> Iterator[Note]:
    """Name stops no frame tells of, and those beyond a rig's last: heard frames alone hide silence."""
    stood: dict[str, dict[str, float]] = {}
    for visit in analysis.visits:
        stood.setdefault(visit.key.stop, {})[visit.key.rig] = visit.distance_m
    last: dict[str, float] = {}
    for there in stood.values():
        for rig, metres in there.items():
            last[rig] = max(metres, last.get(rig, 0.0))
    nobody = [_far(stop, facts) for stop, facts in analysis.stops.items() if stop not in stood]
    some = [
        f"{rig} at {_far(stop, analysis.stops.get(stop, StopFacts()))}"
        for stop, there in stood.items()
        for rig in sorted(last)
        if rig not in there and max(there.values()) > last[rig]
    ]
    if not nobody and not some:
        return
    parts = [*([f"stop {listed(_most(nobody))}"] if nobody else []), *_most(some)]
    yield Note(
        code="nothing_told",
        kind=FACT,
        title=f"Nothing is told of {plural(len(nobody) + len(some), 'visit')}",
        text=f"No frame names {listed(parts)}. If nothing was sent there, all is well. If frames went out and none came, a log of what was heard cannot say so, and ranges may read too long: give the count (0 heard of those sent), or rows with heard = 0.",
        remedy="walk",
    )


def _far(stop: str, facts: StopFacts) -> str:
    return f"{stop} ({distance(facts.distance_m)})" if facts.distance_m else stop


def _most(names: list[str]) -> list[str]:
    more = len(names) - MOST_NAMED
    return [*names[:MOST_NAMED], f"{more} more"] if more > 0 else names


def resets(analysis: Analysis) -> Iterator[Note]:
    """Say where the counter restarted."""

    def words(found: Found, _: int) -> tuple[str, str]:
        most = plural(analysis.visits[found.indices[0]].summary.resets, "time")
        return (
            f"The counter restarted at {found.many}",
            f"{found.places}: the sequence fell back, {most} at the first, as after a lost supply or a slipped lead. Frames sent between the last before and the first after are counted only as far as times and the beacon interval tell. Check the lead.",
        )

    return counted(analysis, "counter_reset", lambda s: s.resets, words)


def copies(analysis: Analysis) -> Iterator[Note]:
    """Say where frames came more than once."""

    def words(found: Found, count: int) -> tuple[str, str]:
        return (
            f"{plural(count, 'duplicate')} at {found.many}",
            f"{found.places}: the same frame arrived more than once, as through a relay or a resend. Each frame counts once.",
        )

    return counted(analysis, "duplicates", lambda s: s.duplicates, words, kind=FACT)


def wraps(analysis: Analysis) -> Iterator[Note]:
    """Say where a counter ran over its top."""

    def words(found: Found, _: int) -> tuple[str, str]:
        return (
            f"The counter wrapped at {found.many}",
            f"{found.places}: the sequence ran over its top and went on from zero; nothing was lost by that.",
        )

    return counted(analysis, "counter_wrap", lambda s: s.wraps, words, kind=FACT)


def few_frames(analysis: Analysis) -> Iterator[Note]:
    """Name the least certain visit."""
    few = [i for i, used in enumerate(analysis.used) if used.sent < FEW_FRAMES]
    if not few:
        return
    few.sort(key=lambda i: analysis.loss_of(i).low - analysis.loss_of(i).high)
    found, worst = Found(analysis, tuple(few)), few[0]
    loss, needed = analysis.loss_of(worst), zero_loss_frames(analysis.rules.loss)
    yield found.note(
        "few_frames",
        f"Too few frames at {found.many}",
        f"{found.first} sent {analysis.used[worst].sent}: the loss could be {percent(loss.low)} to {percent(loss.high)}. Even with none lost it takes {needed} independent frames to show a loss under {percent(analysis.rules.loss)}.",
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
    least = SHORT_VISIT * analysis.level_tau
    short = [i for i, u in enumerate(analysis.used) if u.heard_with_level and u.sent < least]
    if short:
        found, whose = Found(analysis, tuple(short)), "its" if len(short) == 1 else "their"
        yield found.note(
            "level_unsure",
            f"{found.many} too short to know {whose} level",
            f"Levels stay alike over {number(analysis.level_tau, 0)} frames here. A visit shorter than three times that cannot know its own mean level: {found.places}. Send more frames, or move a little while counting.",
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
    untold,
    copies,
    wraps,
)
