"""Where to stand next, and when it is enough: what a further stop would do to the answer."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.link_model.next_stop import (
    Outlook,
    difference_target,
    range_target,
)
from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.ranges import Deciding
from inchmark.core.reading.result import Guidance
from inchmark.core.wording import decibels, distance, number, plural

ENOUGH, GO_ON, WILL_NOT = "enough", "go on", "will not settle"
LEAST_STOPS = 5  # before any claim
SURE_ONCE, SURE_TWICE = 0.99, 0.975  # of the difference lying beyond what is wanted
WANTED_DB, WANTED_FACTOR = 2.0, 1.35  # half-widths that are enough, unless the plan says otherwise
PLANNED_AS_GOOD = 1.05  # a planned stop is taken if it leaves no more than this times the best
LOOK_AHEAD = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class Looked:
    """What the guidance starts from: planned stops not walked yet, the look before, what is wanted.

    `planned` are labels with distances [m]; `before` is the look before, with fewer stops or the
    same ones; `wanted_db` is the difference worth having, `wanted_factor` the half-width of a range.
    """

    planned: tuple[tuple[str, float], ...] = ()
    before: Guidance | None = None
    wanted_db: float = WANTED_DB
    wanted_factor: float = WANTED_FACTOR


def guidance_of(
    analysis: Analysis, by: Mapping[str, Deciding], looked: Looked | None = None
) -> Guidance | None:
    """Return where to stand next; None where nothing is fitted yet or no edge is known."""
    p, looked = analysis.posterior, looked or Looked()
    if p is None or not analysis.slope_known():
        return None
    known = {rig: one for rig, one in by.items() if analysis.threshold_known(one.link)}
    if not known:
        return None
    ranked = sorted(
        known, key=lambda rig: -float(np.median(analysis.margin_db(p, known[rig].link)))
    )
    links = [known[rig].link for rig in ranked]
    frames = float(np.median([used.sent for used in analysis.used])) / max(analysis.tau, 1.0)
    if len(ranked) > 1:
        target = difference_target(p, links[0], links[1])
        draws = analysis.margin_db(p, links[0]) - analysis.margin_db(p, links[1])
        words = f"{ranked[0]} against {ranked[1]}"
        claim = _claim(analysis, words, float(np.mean(draws > looked.wanted_db)), looked.before)
    else:
        rules = analysis.rules
        target = range_target(p, links[0], loss=rules.loss, places=rules.places)
        words, claim = f"the range of {ranked[0]}", None
    return _guided(analysis, Outlook(p, target, links, frames), looked, words, claim)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Claim:
    """How sure it is that a difference is larger than wanted, now and with fewer stops."""

    sure: float
    before: float | None
    stops: int

    @property
    def settled(self) -> bool:
        """Tell whether it may be claimed: sure enough at two looks in a row, or very sure once."""
        if self.stops < LEAST_STOPS:
            return False
        twice = self.before is not None and min(self.sure, self.before) >= SURE_TWICE
        return twice or self.sure >= SURE_ONCE


def _claim(analysis: Analysis, words: str, sure: float, before: Guidance | None) -> _Claim:
    """Return a claim beside the look before: the same pair, read with fewer stops.

    A study read again with the same stops has not been looked at once more.
    """
    last = None
    if before is not None and before.about == words:
        last = before.sure if before.stops < analysis.stop_count else before.sure_before
    return _Claim(sure=sure, before=last, stops=analysis.stop_count)


def _guided(
    analysis: Analysis,
    outlook: Outlook,
    looked: Looked,
    words: str,
    claim: _Claim | None,
) -> Guidance:
    in_db = claim is not None
    wanted = looked.wanted_db if in_db else float(np.log10(looked.wanted_factor))
    candidates = outlook.candidates_m()
    metres, sd = outlook.best([float(d) for d in candidates])
    label = ""
    planned = [(outlook.after([d]), name, d) for name, d in looked.planned]
    if planned and min(planned)[0] <= PLANNED_AS_GOOD * sd:
        sd, label, metres = min(planned)
    now, after = 1.96 * outlook.now_sd, 1.96 * sd
    ahead, stops = _ahead(outlook, [float(d) for d in candidates], metres, wanted)
    known = now <= wanted and analysis.stop_count >= LEAST_STOPS
    enough = known if claim is None else claim.settled
    verdict = ENOUGH if enough else WILL_NOT if stops is None else GO_ON
    return Guidance(
        verdict=verdict,
        about=words,
        in_db=in_db,
        sentence=_sentence(verdict, words, now, after, metres, label, stops, ahead, in_db=in_db),
        half_width=now,
        half_width_after=after,
        next_m=metres,
        next_label=label,
        stops_to_enough=stops,
        sure=claim.sure if claim else None,
        sure_before=claim.before if claim else None,
        stops=analysis.stop_count,
        curve=tuple((float(d), 1.96 * outlook.after([float(d)])) for d in candidates),
    )


def _ahead(
    outlook: Outlook, candidates: Sequence[float], first_m: float, wanted: float
) -> tuple[float, int | None]:
    """Return the half-width after several more stops, and how many are enough; None if too many."""
    walked = [first_m]
    half = 1.96 * outlook.after(walked)
    while half > wanted and len(walked) < LOOK_AHEAD:
        walked.append(outlook.best(candidates, walked)[0])
        half = 1.96 * outlook.after(walked)
    return half, (len(walked) if half <= wanted else None)


def _sentence(
    verdict: str,
    words: str,
    now: float,
    after: float,
    metres: float,
    label: str,
    stops: int | None,
    ahead: float,
    *,
    in_db: bool,
) -> str:
    def width(half: float) -> str:
        return f"±{decibels(half, sign=False)}" if in_db else f"a factor {number(10**half, 2)}"

    where = f"stop {label}, {distance(metres)}" if label else distance(metres)
    if verdict == ENOUGH:
        return (
            f"Enough: {words} is known to {width(now)}. Another stop would make it {width(after)}."
        )
    step = f"Stand next at {where}: it narrows {words} most, from {width(now)} to {width(after)}."
    if verdict == WILL_NOT:
        remedy = (
            "More frames at each stop, or the same receiving unit for both, would."
            if in_db
            else "Stops over a wider span of distance would."
        )
        return f"{step} This walk will not settle it: after {LOOK_AHEAD} more stops it would still be {width(ahead)}. {remedy}"
    return f"{step} {plural(stops or 1, 'more stop')} should be enough."
