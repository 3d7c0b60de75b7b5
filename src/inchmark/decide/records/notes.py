"""The sentence of the page, and the notes beside it: what dB are worth, what is radiated."""

from __future__ import annotations

from collections.abc import Iterator

from django.urls import reverse

from inchmark.core.limits import ERP, Check
from inchmark.core.propagation.log_distance import range_factor
from inchmark.core.wording import decibels, distance, level, number
from inchmark.decide.records.budgets import RigBudget
from inchmark.read.models import StudyReading
from inchmark.shelf.records.limits import LegalCheck
from inchmark.studies.models import Study
from inchmark.studies.records import SideNote

CHECK_LOCALLY = "Check the rules of the place; licensed people decide."


def headline(study: Study, found: list[RigBudget], reading: StudyReading | None) -> tuple[str, str]:
    """Return the sentence of the page and the words under it."""
    if not found:
        return "No rig on the shelf yet.", ""
    best = max(found, key=lambda one: one.ladders[0].in_hand_db)
    ladder, metres = best.ladders[0], distance(best.distance_m)
    sentence = (
        f"Rig {best.rig.letter} at {metres} keeps {decibels(ladder.in_hand_db, sign=False)} in hand"
    )
    if ladder.kept_db is not None:
        sentence += (
            f"; {round(study.places_share * 100):g} of 100 places need {number(ladder.kept_db)}"
        )
    other = best.ladders[1].in_hand_db - ladder.in_hand_db
    words = "Carried end to fixed end. " + (
        "The other direction has as much."
        if abs(other) < 0.05
        else f"The other direction has {decibels(abs(other), sign=False)} "
        f"{'more' if other > 0 else 'less'}."
    )
    if not best.measured:
        words += " Predicted: nothing has been walked that says what the path loses."
    if not study.needed_m:
        words += f" No needed distance is set, so {metres} is drawn."
    return sentence, words


def notes(study: Study, found: list[RigBudget], reading: StudyReading | None) -> list[SideNote]:
    """Return the notes of the page: what dB are worth here, and what is radiated."""
    rows = []
    exponent = (reading.data if reading else {}).get("site", {}).get("exponent", {}).get("estimate")
    if exponent:
        doubling = 10 * exponent * 0.30103
        rows.append(
            SideNote(
                code="doubling",
                subject="",
                kind="fact",
                title=f"Twice the range takes {decibels(doubling, sign=False)} here",
                text=f"6 dB doubles range in free space (common practice). On this site 6 dB "
                f"makes it "
                f"×{number(float(range_factor(6, exponent)), 2)}, 3 dB "
                f"×{number(float(range_factor(3, exponent)), 2)}.",
            )
        )
    rows.extend(note for one in found for note in _legal_notes(study, one))
    return rows


def _legal_notes(study: Study, one: RigBudget) -> Iterator[SideNote]:
    """Yield a fact where both ends fit some row; a caution for each end that fits none."""
    wrong = [check for check in one.legal if not check.fits]
    page = {"evidence_url": reverse("shelf:rules", args=[study.pk]), "evidence": "Rules table"}
    for check in wrong:
        title = f"{one.rig.letter}, {check.end}: {_title(check)}"
        yield SideNote(
            code="over_limit",
            subject=f"{one.rig.letter}/{check.end}",
            kind="caution",
            title=title,
            text=f"{_text(study, one, check)} {CHECK_LOCALLY}",
            **page,
        )
    carried, fixed = one.legal
    if not wrong and carried.best and fixed.best:
        yield SideNote(
            code="radiated",
            subject=one.rig.letter,
            kind="fact",
            title=f"{one.rig.letter} radiates {_radiated(carried, carried.best)}",
            text=f"Fixed end: {_radiated(fixed, fixed.best)} {_against(carried.best)} "
            f"{_duty(carried, carried.best)} {CHECK_LOCALLY}",
            **page,
        )


def _title(check: LegalCheck) -> str:
    best = check.best
    if best is None:
        return "no row of the table covers its channel"
    if not best.power_fits:
        return f"{number(-best.left_db)} dB over the limit"
    return "too much of the time on air"


def _text(study: Study, one: RigBudget, check: LegalCheck) -> str:
    best = check.best
    if best is None:
        return (
            f"{one.rig.frequency_hz / 1e6:g} MHz, {check.emission.occupied_hz / 1e3:.4g} kHz wide, "
            f"lies in no band listed for {study.get_region_display()}."
        )
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
