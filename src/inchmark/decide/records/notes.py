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
    for one in found:
        for check in one.legal:
            rows.extend(_legal_notes(study, one, check))
    return rows


def _legal_notes(study: Study, one: RigBudget, check: LegalCheck) -> Iterator[SideNote]:
    letter, best = one.rig.letter, check.best
    page = reverse("shelf:rules", args=[study.pk])
    if best is None:
        yield SideNote(
            code="no_limit",
            subject=f"{letter}/{check.end}",
            kind="caution",
            title=f"{letter}, {check.end}: no row of the table covers its channel",
            text=f"{one.rig.frequency_hz / 1e6:g} MHz, {check.emission.occupied_hz / 1e3:.4g} kHz "
            f"wide, lies in no band listed for {study.get_region_display()}. {CHECK_LOCALLY}",
            evidence_url=page,
            evidence="Rules table",
        )
        return
    yield SideNote(
        code="radiated" if best.fits else "over_limit",
        subject=f"{letter}/{check.end}",
        kind="fact" if best.fits else "caution",
        title=_radiated(letter, check, best),
        text=f"{_against(best)} {_duty(check, best)} {best.limit.document}"
        f"{', from memory' if best.limit.from_memory else ''}. {CHECK_LOCALLY}",
        evidence_url=page,
        evidence="Rules table",
    )


def _radiated(letter: str, check: LegalCheck, best: Check) -> str:
    kind = best.limit.kind
    power = check.emission.erp_dbm if kind == ERP else check.emission.eirp_dbm
    shown = "e.r.p." if kind == ERP else "e.i.r.p."
    over = "" if best.power_fits else f", {number(-best.left_db)} dB over the limit"
    return f"{letter}, {check.end}: {level(power)} {shown}{over}"


def _against(best: Check) -> str:
    limit = best.limit
    return f"Limit {level(limit.power_dbm)} {limit.kind}, {limit.band}, {limit.access}."


def _duty(check: LegalCheck, best: Check) -> str:
    allowed = best.limit.duty_cycle_percent
    used = f"{check.used_percent:.2g} % of the time on air"
    if allowed is None:
        return f"It is {used}; the row sets no duty cycle."
    fits = "of" if best.duty_fits else "over the"
    return f"It is {used}, {fits} {allowed:g} % allowed."
