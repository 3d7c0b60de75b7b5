"""The sentence of the page, and the notes beside it: what dB are worth, what is radiated."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from django.urls import reverse

from inchmark.core.airtime.collisions import Traffic
from inchmark.core.limits import ERP, Check
from inchmark.core.propagation.log_distance import range_factor
from inchmark.core.reading.expected import LIKELY
from inchmark.core.reading.result import Reading
from inchmark.core.wording import decibels, distance, level, number, percent
from inchmark.decide.figures.budgets import BudgetBasis, RigBudget
from inchmark.plan.models import SitePoint
from inchmark.shelf.adapters.parts import chain_of
from inchmark.shelf.adapters.rigs import airtime_s
from inchmark.shelf.figures.limits import LegalCheck
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study
from inchmark.studies.side_notes import SideNote

LEAST_NODES, SHARE_OF_LOSS = 2, 0.5  # of the loss allowed, before others take it
CHECK_LOCALLY = "Check the rules of the place; licensed people decide."


def headline(ground: BudgetBasis, found: Sequence[RigBudget]) -> tuple[str, str]:
    """Return the sentence of the page and the words under it."""
    if not found:
        return "No rig on the shelf yet.", ""
    best = max(found, key=lambda one: one.in_hand_db)
    there, back = best.directions
    places = round(ground.study.places_share * 100)
    in_hand = decibels(there.in_hand_db, sign=False)
    sentence = f"Rig {best.rig.letter} at {distance(best.distance_m)} keeps {in_hand} in hand; {places:g} of 100 places need {number(there.keep_db)}"
    words = ["Carried end to fixed end.", _other_way(back.in_hand_db - there.in_hand_db)]
    if not best.measured:
        words.append("Predicted: nothing has been walked that says what the path loses.")
    if not ground.study.needed_m:
        words.append(f"No needed distance is set, so {distance(best.distance_m)} is drawn.")
    return sentence, " ".join(words)


def stale_words(ground: BudgetBasis) -> str:
    """Return what to know while the study has changed since it was read; nothing otherwise."""
    if ground.kept is None or not ground.kept.stale(ground.study):
        return ""
    if not ground.kept.reading.rigs:  # nothing was walked that could be read again
        return ""
    if ground.outdated:
        needed = distance(ground.study.budget_distance_m)
        return f"The walk is being read again for {needed}; until then everything here is at {distance(ground.metres)}."
    return "The walk is being read again."


def said(shown: RigBudget) -> str:
    """Return what a what-if comes to, for those who listen."""
    return f"{decibels(shown.in_hand_db, sign=False)} in hand with what was changed."


def _other_way(db: float) -> str:
    if abs(db) < 0.05:
        return "The other direction has as much."
    more = "more" if db > 0 else "less"
    return f"The other direction has {decibels(abs(db), sign=False)} {more}."


def notes(ground: BudgetBasis, found: Sequence[RigBudget]) -> list[SideNote]:
    """Return the notes of the page: what dB are worth here, and what is radiated."""
    rows = [note for one in found for note in _chain_notes(ground.study, one.rig)]
    rows.extend(_doubling(ground.reading))
    rows.extend(_traffic_notes(ground))
    rows.extend(note for one in found for note in _legal_notes(ground.study, one))
    return rows


def _chain_notes(study: Study, rig: Rig) -> Iterator[SideNote]:
    """Yield what does not go together between radio and antenna: the budget counts as if it did."""
    for end, joint in chain_of(rig):
        bring = f" Bring an {joint.adapter}." if joint.adapter else ""
        yield SideNote(
            code="chain",
            subject=f"{rig.letter} {end}",
            kind="caution",
            title=f"{rig.letter}, {end}: parts that do not go together",
            text=f"{joint.words}.{bring} The budget reckons as if they did.",
            remedy="To the shelf",
            remedy_url=rig.get_absolute_url(),
        )


def _traffic_notes(ground: BudgetBasis) -> Iterator[SideNote]:
    """Say what the nodes of the study take from each other on one channel, and how many may be added."""
    nodes = ground.study.points.filter(kind=SitePoint.NODE).count()
    if nodes < LEAST_NODES:
        return
    allowed, parts, worst = ground.study.loss_share, [], 0.0
    for rig in ground.rigs:
        air = airtime_s(rig)
        if air >= rig.period_s:
            continue
        traffic = Traffic(senders=nodes, airtime_s=air, period_s=rig.period_s)
        lost = 1 - traffic.success_at_random_times()
        most = traffic.most_senders(allowed * SHARE_OF_LOSS)
        parts.append(
            f"{rig.letter} loses {percent(lost)}, and {most:,} nodes would use half of the loss allowed"
        )
        worst = max(worst, lost)
    if not parts:
        return
    over = worst > allowed * SHARE_OF_LOSS
    yield SideNote(
        code="traffic",
        subject="",
        kind="caution" if over else "fact",
        title=f"{nodes} nodes on one channel take {percent(worst)} of frames from each other at most",
        text=f"At random times, any overlap killing both (Abramson 1970): {'; '.join(parts)}. A receiver that keeps the stronger frame loses less; chirps of different spreading factors hardly meet. Places served are reckoned without it.",
    )


def _doubling(reading: Reading | None) -> Iterator[SideNote]:
    exponent = reading.site.exponent if reading else None
    if exponent is None:
        return
    doubling = 10 * exponent.estimate * 0.30103
    six, three = (number(float(range_factor(db, exponent.estimate)), 2) for db in (6, 3))
    yield SideNote(
        code="doubling",
        subject="",
        kind="fact",
        title=f"Twice the range takes {decibels(doubling, sign=False)} here",
        text=f"6 dB doubles range in free space (common practice). On this site 6 dB makes it ×{six}, 3 dB ×{three}.",
    )


def _legal_notes(study: Study, budget: RigBudget) -> Iterator[SideNote]:
    """Yield a fact where both ends fit some row; a caution for each end that fits none."""
    wrong = [check for check in budget.legal if not check.fits]
    page = {"evidence_url": reverse("shelf:rules", args=[study.pk]), "evidence": "Rules table"}
    for check in wrong:
        title = f"{budget.rig.letter}, {check.end}: {_title(check)}"
        yield SideNote(
            code="over_limit",
            subject=f"{budget.rig.letter}/{check.end}",
            kind="caution",
            title=title,
            text=f"{_text(study, budget, check)} {CHECK_LOCALLY}",
            **page,
        )
    carried, fixed = budget.legal
    if not wrong and carried.best and fixed.best:
        yield SideNote(
            code="radiated",
            subject=budget.rig.letter,
            kind="fact",
            title=f"{budget.rig.letter} radiates {_radiated(carried, carried.best)}",
            text=f"Fixed end: {_radiated(fixed, fixed.best)} {_against(carried.best)} {_duty(carried, carried.best)} {CHECK_LOCALLY}",
            **page,
        )


def _title(check: LegalCheck) -> str:
    best = check.best
    if best is None:
        return "no row of the table covers its channel"
    if not best.power_fits:
        return f"{number(-best.left_db)} dB over the limit"
    return "too much of the time on air"


def _text(study: Study, budget: RigBudget, check: LegalCheck) -> str:
    best = check.best
    if best is None:
        return f"{budget.rig.frequency_hz / 1e6:g} MHz, {check.emission.occupied_hz / 1e3:.4g} kHz wide, lies in no band listed for {study.get_region_display()}."
    return f"It radiates {_radiated(check, best)}. {_against(best)} {_duty(check, best)}"


def _radiated(check: LegalCheck, best: Check) -> str:
    if best.limit.kind == ERP:
        return f"{level(check.emission.erp_dbm)} e.r.p."
    return f"{level(check.emission.eirp_dbm)} e.i.r.p."


def _against(best: Check) -> str:
    limit = best.limit
    known = ", from memory" if limit.from_memory else ""
    return f"Limit {level(limit.power_dbm)} {limit.kind}, {limit.band}{known}."


def _duty(check: LegalCheck, best: Check) -> str:
    allowed = best.limit.duty_cycle_percent
    used = f"On the air {check.used_percent:.2g} % of the time"
    if allowed is None:
        return f"{used}; the row sets no duty cycle."
    return f"{used}, {'of' if best.duty_fits else 'over the'} {allowed:g} % allowed."


def doubts(reading: Reading, letter: str) -> list[str]:
    """Return in sentences what is uncertain about a rig: an edge not reached, places outside the walk."""
    found = []
    one = reading.of_rig(letter)
    if one and not one.edge_reached:
        found.append(f"{letter} was never walked to its edge; its threshold rests on the prior.")
    if one and one.extrapolated:
        found.append(f"The range of {letter} lies beyond what was walked.")
    served = next((row for row in reading.served if row.rig == letter), None)
    rows = served.places if served else ()
    open_ones = [row.place for row in rows if row.meets and 0.05 < row.meets.estimate < LIKELY]
    if open_ones:
        found.append(
            f"Open for {letter}, neither surely served nor surely not: {', '.join(open_ones)}."
        )
    outside = [row.place for row in served.places if row.extrapolated] if served else []
    if outside:
        found.append(f"Outside what was walked: {', '.join(outside)}.")
    return found
