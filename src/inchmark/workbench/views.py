"""The workbench's page, and each answer anew while somebody types."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from inchmark.workbench import forms
from inchmark.workbench.drawings import reach_tape
from inchmark.workbench.figures import asked
from inchmark.workbench.figures.answers import Answers


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A question of the page: its address, words, form and who answers it."""

    key: str
    title: str
    form: type[forms.Question]
    answer: Callable[[Mapping[str, Any]], Answers]


QUESTIONS = {
    one.key: one
    for one in (
        Asked(key="power", title="What power is that?", form=forms.PowerQuestion, answer=asked.power),
        Asked(key="brings", title="What does a decibel bring?", form=forms.BringsQuestion, answer=asked.brings),
        Asked(key="reach", title="How far should it reach?", form=forms.ReachQuestion, answer=asked.reach),
        Asked(key="antenna", title="How long is the wire, how wide the beam?", form=forms.AntennaQuestion, answer=asked.antenna),
        Asked(key="air", title="How long is it on the air?", form=forms.AirQuestion, answer=asked.air),
        Asked(key="limits", title="What is allowed there?", form=forms.LimitsQuestion, answer=asked.limits),
        Asked(key="way", title="What does a wall cost?", form=forms.WayQuestion, answer=asked.in_the_way),
    )
}  # fmt: skip


@require_GET
def workbench(request: HttpRequest) -> HttpResponse:
    """Show every question with an example answered."""
    rows = [_row(one, request) for one in QUESTIONS.values()]
    return render(request, "workbench/workbench.html", {"rows": rows})


@require_GET
def answer(request: HttpRequest, question: str) -> HttpResponse:
    """Answer one question anew; without a script it is a page of its own."""
    one = QUESTIONS.get(question)
    if one is None:
        raise Http404
    row = _row(one, request)
    if request.headers.get("HX-Request"):
        return render(request, "workbench/_answers.html", row)
    return render(request, "workbench/workbench.html", {"rows": [row], "only": one})


def _row(one: Asked, request: HttpRequest) -> dict[str, Any]:
    """Return a question as the page shows it: with what was typed, else with its example."""
    typed = {f"{one.key}-{name}": text for name, text in one.form.typed.items()}
    given = {name: text for name, text in request.GET.items() if name in typed}
    form = one.form(typed | given, prefix=one.key)
    row: dict[str, Any] = {"question": one, "form": form, "answers": None, "wrong": ""}
    if not form.is_valid():
        return row
    try:
        row["answers"] = one.answer(form.cleaned_data)
    except ValueError as wrong:
        row["wrong"] = str(wrong)
    reach = row["answers"].reach if row["answers"] else None
    if reach is not None:
        row["tape"] = reach_tape(reach.low_m, reach.middle_m, reach.high_m)
    return row
