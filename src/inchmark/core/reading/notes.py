"""Side notes: judgements the program makes, each with its reason and where its evidence is."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from inchmark.core.reading.measured import MeasuredVisit, StopFacts
from inchmark.core.reading.reading import Reading
from inchmark.core.reading.rules import (
    EXTRAPOLATION,
    MIN_STOPS_SHADOWING,
    WANTED_SPREAD_EXPONENT,
)
from inchmark.core.reception.proportion import zero_loss_frames
from inchmark.core.wording import decibels, distance, level, listed, number, percent, plural

FEW_FRAMES = 29  # zero lost of 29 shows a loss under 10 % at 95 %
SURVIVOR_DB = 1.0
DOUBTFUL_DB = 1.0
GUESSED_METHODS = ("guess", "road", "pace", "paced", "guessed", "map by eye")
BURSTY_TAU = 4.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """One judgement. `kind`: caution (act on it), fact (know it), good (rely on it)."""

    code: str
    title: str
    text: str
    kind: str = "caution"
    rig: str = ""
    stop: str = ""

    @property
    def subject(self) -> str:
        """Return what tells two notes of one code apart."""
        return "/".join(part for part in (self.rig, self.stop) if part)


def notes_of(reading: Reading) -> list[Note]:
    """Return the notes of a reading, cautions first."""
    makers = (
        _no_fit,
        _survivors_strong,
        _one_change,
        _no_edge,
        _extrapolated,
        _nothing_heard,
        _counter,
        _few_frames,
        _distance_doubtful,
        _few_stops,
        _clipped,
        _interfered,
        _bursty,
        _conditions,
        _walks,
        _shared_stops,
    )
    found = [note for make in makers for note in make(reading)]
    order = {"caution": 0, "fact": 1, "good": 2}
    return sorted(found, key=lambda note: order[note.kind])


def _where(v: MeasuredVisit) -> str:
    return f"Stop {v.key.stop}, rig {v.key.rig}"


def _no_fit(reading: Reading) -> Iterator[Note]:
    if reading.visits and reading.fit is None:
        yield Note(
            code="no_fit",
            title="No range can be computed yet",
            text=f"{reading.why_no_fit} Counts and last-heard distances are still shown.",
        )


def _survivors_strong(reading: Reading) -> Iterator[Note]:
    """Name the visit of each rig where the mean of survivors misleads most."""
    p = reading.posterior
    if p is None:
        return
    worst: dict[str, tuple[float, int]] = {}
    for i, v in enumerate(reading.visits):
        if not 0 < v.summary.lost < v.summary.sent or v.summary.level_mean_dbm is None:
            continue
        if i in (reading.fit.interfered if reading.fit else ()):
            continue
        high = v.summary.level_mean_dbm - float(p.visit_level[0, i])
        if high >= max(SURVIVOR_DB, worst.get(v.key.rig, (0.0, 0))[0]):
            worst[v.key.rig] = (high, i)
    for rig, (high, i) in worst.items():
        v = reading.visits[i]
        yield Note(
            code="survivors_strong",
            rig=rig,
            stop=v.key.stop,
            title=f"{_where(v)}: survivors look strong",
            text=f"{v.summary.lost} of {plural(v.summary.sent, 'frame')} were lost. The mean of "
            f"those that "
            f"arrived reads {decibels(high, sign=False)} too high; the fit counts the lost ones "
            f"as below threshold.",
        )


def _one_change(reading: Reading) -> Iterator[Note]:
    if len(reading.rigs) < 2:
        return
    reference = reading.rigs[0]
    before = dict(reading.facts[reference].varied)
    for rig in reading.rigs[1:]:
        after = dict(reading.facts[rig].varied)
        changed = [name for name in before if name in after and before[name] != after[name]]
        if len(changed) > 1:
            yield Note(
                code="one_change",
                rig=rig,
                title=f"{rig} changed {len(changed)} things",
                text=f"{rig} differs from {reference} by {listed(changed)}. Its gain cannot be "
                f"split "
                "between them. Add a rig that changes one.",
            )


def _no_edge(reading: Reading) -> Iterator[Note]:
    for rig in reading.rigs:
        if reading.heard(rig) == 0 or reading.edge_reached(rig) or reading.posterior is None:
            continue
        if reading.edge_bracketed(rig):
            text = (
                "One stop lost next to nothing, the next nearly all: the edge lies between them. "
                "A stop in between would measure the threshold and narrow the range."
            )
        elif reading.facts[rig].prior.sensitivity_dbm is None:
            text = (
                "No stop lost between 5 and 95 % of its frames and no sensitivity is known, "
                "so there is no range. Walk farther, or give the rig a sensitivity."
            )
        else:
            text = (
                "No stop lost between 5 and 95 % of its frames. The threshold rests on the "
                "datasheet; a stop farther out would measure it."
            )
        yield Note(code="no_edge", rig=rig, title=f"{rig}: no edge was reached", text=text)


def _extrapolated(reading: Reading) -> Iterator[Note]:
    p = reading.posterior
    if p is None or not reading.slope_known():
        return
    for rig in reading.rigs:
        farthest = max(v.distance_m for v in reading.visits_of(rig))
        reach = (
            p.loss_range_m(rig, loss=reading.rules.loss, places=reading.rules.places)
            if reading.threshold_known(rig)
            else None
        )
        if reach and reach.estimate > EXTRAPOLATION * farthest:
            yield Note(
                code="extrapolated",
                rig=rig,
                title=f"{rig}: range is extrapolated",
                text=f"{distance(reach.estimate)} lies beyond 1.5 times the farthest stop "
                f"({distance(farthest)}). The slope may not go on like this.",
            )


def _nothing_heard(reading: Reading) -> Iterator[Note]:
    for v in reading.visits:
        if v.summary.heard == 0:
            yield Note(
                code="nothing_heard",
                rig=v.key.rig,
                stop=v.key.stop,
                kind="fact",
                title=f"{_where(v)}: nothing heard",
                text=f"{plural(v.summary.sent, 'frame')} went out at {distance(v.distance_m)} "
                f"and none arrived. "
                f"That is a result: the loss is at least {percent(reading.loss_of(v).low)} and "
                f"the level lies "
                "below the threshold. It is counted, not left out.",
            )


def _counter(reading: Reading) -> Iterator[Note]:
    for v in reading.visits:
        s = v.summary
        if s.resets:
            yield Note(
                code="counter_reset",
                rig=v.key.rig,
                stop=v.key.stop,
                title=f"{_where(v)}: the counter restarted",
                text=f"The sequence fell back {plural(s.resets, 'time')}, as after a lost "
                f"supply or a slipped "
                "lead. Frames sent between the last before and the first after are counted "
                "only as far as "
                "times and the beacon interval tell. Check the lead.",
            )
        if s.duplicates:
            yield Note(
                code="duplicates",
                rig=v.key.rig,
                stop=v.key.stop,
                kind="fact",
                title=f"{_where(v)}: {plural(s.duplicates, 'duplicate')}",
                text="The same frame arrived more than once, as through a relay or a resend. "
                "Each frame counts once.",
            )
        if s.wraps:
            yield Note(
                code="counter_wrap",
                rig=v.key.rig,
                stop=v.key.stop,
                kind="fact",
                title=f"{_where(v)}: the counter wrapped",
                text="The sequence ran over its top and went on from zero; nothing was lost by "
                "that.",
            )


def _few_frames(reading: Reading) -> Iterator[Note]:
    few = [v for v in reading.visits if v.summary.sent < FEW_FRAMES]
    if not few:
        return
    worst = max(few, key=lambda v: reading.loss_of(v).high - reading.loss_of(v).low)
    loss = reading.loss_of(worst)
    needed = zero_loss_frames(reading.rules.loss)
    yield Note(
        code="few_frames",
        rig=worst.key.rig,
        stop=worst.key.stop,
        title=f"Too few frames at {plural(len(few), 'visit')}",
        text=f"{_where(worst)} sent {worst.summary.sent}: the loss could be {percent(loss.low)} to "
        f"{percent(loss.high)}. Even with none lost it takes {needed} independent frames to "
        f"show a loss under "
        f"{percent(reading.rules.loss)}.",
    )


def _distance_doubtful(reading: Reading) -> Iterator[Note]:
    p = reading.posterior
    slope = float(np.median(p.exponent)) if p is not None and reading.slope_known() else 3.0
    far = {v.key.stop: v.distance_m for v in reading.visits}
    for stop, metres in far.items():
        facts = reading.stops.get(stop, StopFacts())
        off_m = facts.plus_minus_m or 0.0
        error_db = 10 * slope * np.log10(1 + off_m / metres)
        reasons = []
        if error_db >= DOUBTFUL_DB:
            reasons.append(f"±{number(off_m, 0)} m is {decibels(float(error_db), sign=False)} here")
        if facts.method.lower() in GUESSED_METHODS:
            reasons.append(f"it was measured by {facts.method.lower()}")
        if facts.geodesic_m and abs(facts.geodesic_m / metres - 1) > 0.05:
            reasons.append(f"the coordinates say {distance(facts.geodesic_m)}")
        if reasons:
            yield Note(
                code="distance_doubtful",
                stop=stop,
                title=f"Stop {stop}: distance in doubt",
                text=f"{distance(metres)} is taken, but {listed(reasons)}. A 20 % error in "
                f"distance is "
                f"{decibels(10 * slope * float(np.log10(1.2)), sign=False)} at this slope. "
                f"Measure it again.",
            )


def _few_stops(reading: Reading) -> Iterator[Note]:
    d = reading.distances_m
    if reading.posterior is None:
        return
    if len(d) < MIN_STOPS_SHADOWING:
        yield Note(
            code="few_stops",
            title=f"Only {plural(len(d), 'stop')}",
            text="The scatter from place to place needs at least five stops; until then the "
            "limits lean on "
            "what is usual outdoors, not on this site.",
        )
    if len(d) > 1 and d[-1] / d[0] < WANTED_SPREAD_EXPONENT:
        yield Note(
            code="narrow_spread",
            title="Stops too close together for a slope",
            text=f"{distance(d[0])} to {distance(d[-1])} is a factor {number(d[-1] / d[0])}. A "
            f"slope needs a "
            "factor of four; until then it leans on what is usual.",
        )


def _clipped(reading: Reading) -> Iterator[Note]:
    if reading.fit and reading.fit.clip_dbm is not None:
        yield Note(
            code="clipped",
            kind="fact",
            title=f"Readings stop at {level(reading.fit.clip_dbm)}",
            text="Near stops pile up on the receiver's highest reading. Those frames are taken "
            "as at least "
            "that strong, so they do not flatten the slope.",
        )


def _interfered(reading: Reading) -> Iterator[Note]:
    for i in reading.fit.interfered if reading.fit else ():
        v = reading.visits[i]
        loss = reading.loss_of(v)
        yield Note(
            code="interference",
            rig=v.key.rig,
            stop=v.key.stop,
            title=f"{_where(v)}: losses that level does not explain",
            text=f"{percent(loss.estimate)} lost at {level(v.summary.level_mean_dbm or 0)}: "
            f"interference, a collision or a "
            "restart is likelier than weakness. These losses are left out of the range; the "
            "levels are kept.",
        )


def _bursty(reading: Reading) -> Iterator[Note]:
    if reading.tau >= BURSTY_TAU and any(v.summary.lost for v in reading.visits):
        yield Note(
            code="bursty",
            kind="fact",
            title="Losses come in runs",
            text=f"{number(reading.tau)} frames are worth one independent frame here, so 100 "
            f"frames tell as much as "
            f"{number(100 / reading.tau, 0)}. The limits are widened for it.",
        )


def _conditions(reading: Reading) -> Iterator[Note]:
    for rig, own in _alone(reading, lambda v: v.key.condition):
        yield Note(
            code="confounded_condition",
            rig=rig,
            title=f"{rig} was never carried like the others",
            text=f"{rig} was always carried “{listed(own)}”, no other rig was. Its difference "
            "cannot be told from the way it was carried.",
        )


def _walks(reading: Reading) -> Iterator[Note]:
    for rig, own in _alone(reading, lambda v: v.key.walk):
        yield Note(
            code="confounded_walk",
            rig=rig,
            title=f"{rig} was never walked with the others",
            text=f"{rig} was in walk {listed(own)} only, no other rig was. Weather, wet ground, "
            "batteries and whoever carried it are in its difference; walk it beside another.",
        )


def _alone(reading: Reading, of: Callable[[MeasuredVisit], str]) -> Iterator[tuple[str, list[str]]]:
    """Yield rigs that share no value of something with any other rig, and their values."""
    if len({of(v) for v in reading.visits}) < 2:
        return
    for rig in reading.rigs:
        own = {of(v) for v in reading.visits_of(rig)}
        others = {of(v) for v in reading.visits if v.key.rig != rig}
        if others and not own & others:
            yield rig, sorted(own)


def _shared_stops(reading: Reading) -> Iterator[Note]:
    if len(reading.rigs) < 2:
        return
    stops = [{v.key.stop for v in reading.visits_of(rig)} for rig in reading.rigs]
    shared, every = set.intersection(*stops), set.union(*stops)
    if shared == every and len(shared) > 1:
        yield Note(
            code="paired",
            kind="good",
            title="All rigs stood at the same stops",
            text=f"{listed(list(reading.rigs))} shared all {len(shared)} stops, so they shared "
            f"the shadowing: "
            "differences in dB are sharper than ranges.",
        )
    elif len(shared) < len(every):
        yield Note(
            code="unpaired",
            title="Rigs did not share all stops",
            text=f"Only {len(shared)} of {plural(len(every), 'stop')} saw every rig. The places "
            f"differ as well as "
            "the rigs, and that widens every difference.",
        )
