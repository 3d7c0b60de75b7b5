"""A report gathered from all rooms, and set as PDF in the background."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction
from django.template.loader import render_to_string
from django.utils import timezone
from procrastinate.contrib.django import app

from inchmark import __version__
from inchmark.core.reading.analysis import MODEL_VERSION
from inchmark.core.reading.answer import answer_of
from inchmark.core.reading.expected import served_words
from inchmark.core.reading.result import Reading
from inchmark.core.wording import number, percent
from inchmark.decide.drawings.report_tape import report_tape
from inchmark.decide.figures.notes import doubts
from inchmark.decide.figures.report import measured, things
from inchmark.decide.figures.report.document import PageOne, Report, Section
from inchmark.decide.models import Decision
from inchmark.decide.models import Report as Kept
from inchmark.decide.services.decisions import standing
from inchmark.decide.services.draft import draft_of
from inchmark.decide.services.pdf import pdf_of
from inchmark.pages.personal import in_usual_figures
from inchmark.plan.figures.walls import wall_rows
from inchmark.read.drawings.charts import ReadCharts
from inchmark.read.figures import notes as reading_notes
from inchmark.read.figures.beside import beside
from inchmark.read.services import current_reading
from inchmark.shelf.models import Rig
from inchmark.shelf.services.beside import lives_of
from inchmark.studies.models import Study
from inchmark.walk.models import FrameFile, ReadBack

MOST_REASONS = 3
Tell = Callable[[float], None]


@in_usual_figures
def gathered(study: Study) -> dict[str, Any] | None:
    """Return the report, its tape and its charts; None where nothing was read."""
    kept = current_reading(study)
    if kept is None or not kept.reading.rigs:
        return None
    reading, rigs = kept.reading, list(study.rigs.with_parts())
    for rig in rigs:
        rig.study = study
    decision = standing(study)
    report = Report(
        first=_first(study, reading, rigs, decision),
        sections=tuple(_sections(study, reading, rigs)),
        made=f"Inch Mark {__version__}, model {MODEL_VERSION}, revision {kept.row.revision} of the study, read {kept.row.made_at:%d %b %Y %H:%M} UTC, report made {timezone.now():%d %b %Y %H:%M} UTC",
    )
    return {
        "study": study,
        "report": report,
        "decision": decision,
        "tape": report_tape(study),
        "charts": ReadCharts(study, reading).main(),
        "stale": kept.stale(study),
        "reading_pk": kept.row.pk,
    }


def _first(study: Study, reading: Reading, rigs: list[Rig], decision: Decision | None) -> PageOne:
    best = next((one for one in rigs if decision and one.letter == decision.letter), None)
    draft = {} if decision else draft_of(study, _leading(reading, rigs), "", _Nobody())
    reasons = decision.reasons if decision else draft.get("reasons", "")
    uncertain = decision.uncertain if decision else draft.get("uncertain", "")
    chosen = best or _leading(reading, rigs)
    return PageOne(
        title=study.title,
        question=study.question,
        answer=answer_of(reading).sentence,
        limits=_answer_words(reading),
        decided=f"Decided: {decision.chosen} ({decision.name}, {decision.at:%d %b %Y})"
        if decision
        else "Nothing has been decided yet.",
        served=tuple(served_words(one) for one in reading.served),
        reasons=_lines(reasons)[:MOST_REASONS],
        uncertain=_lines(uncertain) or tuple(doubts(reading, chosen.letter) if chosen else ()),
        cost=_cost(chosen),
    )


def _answer_words(reading: Reading) -> str:
    """Return the limits of the answer, the rule, and what it rests on."""
    answer = answer_of(reading)
    sent = sum(one.sent for one in reading.visits)
    stops = len({one.stop for one in reading.visits})
    basis = f"{sent} frames sent at {stops} stops (n)."
    parts = (answer.limits, answer.needed, answer.rule, basis)
    return " ".join(f"{one.rstrip('.')}." for one in parts if one)


class _Nobody:
    """Who a draft is by while nobody has decided."""

    def get_full_name(self) -> str:
        return ""

    def get_username(self) -> str:
        return ""


def _leading(reading: Reading, rigs: list[Rig]) -> Rig | None:
    """Return the rig that serves most, else that which reaches farthest."""
    counts = {one.rig: one.count.estimate for one in reading.served if one.count}
    reach = {one.rig: one.loss_range_m.estimate for one in reading.rigs if one.loss_range_m}
    return max(
        rigs, key=lambda one: (counts.get(one.letter, -1), reach.get(one.letter, -1)), default=None
    )


def _lines(text: str) -> tuple[str, ...]:
    return tuple(line.strip() for line in text.splitlines() if line.strip())


def _cost(rig: Rig | None) -> tuple[str, ...]:
    if rig is None:
        return ()
    parts = [
        (name, part)
        for name, part in (
            ("module", rig.module_part),
            ("antenna", rig.antenna_part),
            ("feed", rig.feed_part),
            ("battery", rig.battery),
        )
        if part is not None
    ]
    priced = [(name, part.price) for name, part in parts if part.price is not None]
    if not priced:
        return ("No prices are on the shelf.",)
    total = sum(price for _, price in priced)
    names = ", ".join(f"{name} {number(price, 2)}" for name, price in priced)
    lacking = [name for name, part in parts if part.price is None]
    without = f"; without {', '.join(lacking)}, which have no price" if lacking else ""
    return (
        f"A node of {rig.letter}: {number(total, 2)} ({names}){without}, in the currency of the shelf.",
    )


def _sections(study: Study, reading: Reading, rigs: list[Rig]) -> list[Section]:
    read_backs = list(ReadBack.objects.filter(walk__study=study).order_by("at")[:50])
    files = list(
        FrameFile.objects.filter(walk__study=study)
        .select_related("walk")
        .order_by("walk__number", "pk")
    )
    rules, frames = reading.rules, sum(one.sent for one in reading.visits)
    walks = len({one.walk for one in reading.visits})
    method = things.method_words(
        percent(rules.loss), percent(rules.places), len(reading.visits), frames, walks
    )
    return [
        Section(key="method", title="How it was measured and read", words=method),
        measured.ranges_section(reading),
        measured.differences_section(reading),
        measured.places_section(reading.served),
        measured.stops_section(reading, beside(study, reading)),
        things.notes_section(reading_notes(study, reading)),
        things.parts_section(rigs, lives_of(study, rigs), read_backs),
        *_walls(study, rigs),
        things.limits_section(rigs, study.region),
        things.logs_section(files),
        things.glossary_section(),
    ]


def _walls(study: Study, rigs: list[Rig]) -> list[Section]:
    frequency = rigs[0].frequency_hz if rigs else None
    found = things.walls_section(wall_rows(list(study.walls.all()), frequency), frequency)
    return [found] if found else []


@transaction.atomic
def queue_report(study: Study) -> None:
    """Queue the report as PDF.

    Raises
    ------
    ValidationError
        Nothing was read yet.
    """
    if current_reading(study) is None:
        raise ValidationError("Nothing has been read yet that a report could hold.")
    Kept.objects.update_or_create(
        study=study,
        defaults={
            "state": Kept.WAITING, "done": 0.0, "problem": "", "pdf": None, "pages": 0,
            "revision": study.revision,
        },
    )  # fmt: skip
    app.configure_task("inchmark.decide.tasks.make_report", queue="read").defer(study_id=study.pk)


def make_report(study_id: int) -> None:
    """Set a study's report as PDF and keep it."""
    study = Study.objects.filter(pk=study_id).first()
    if study is None:
        return
    began = time.monotonic()
    rows = Kept.objects.filter(study=study)

    def tell(share: float) -> None:
        rows.update(done=share, state=Kept.RUNNING)

    tell(0.05)
    found = gathered(study)
    if found is None:
        rows.update(
            state=Kept.FAILED, problem="Nothing has been read yet that a report could hold."
        )
        return
    tell(0.3)
    html = render_to_string("decide/report/standalone.html", found)
    tell(0.45)
    pdf, pages = pdf_of(html)
    rows.update(
        state=Kept.DONE, done=1.0, pdf=pdf, pages=pages, revision=study.revision,
        reading_pk=found["reading_pk"], seconds=time.monotonic() - began,
    )  # fmt: skip
