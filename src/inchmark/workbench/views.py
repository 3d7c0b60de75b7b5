"""The workbench's page, and each answer anew while somebody types."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_http_methods

from inchmark.pages.keeping import kept
from inchmark.pages.parts import go_to
from inchmark.studies.models import Study
from inchmark.workbench import forms, services
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
    begins: tuple[str, ...] = ()  # fields a study can be begun with


QUESTIONS = {
    one.key: one
    for one in (
        Asked(key="power", title="What power is that?", form=forms.PowerQuestion, answer=asked.power, begins=("power", "gain")),
        Asked(key="brings", title="What does a decibel bring?", form=forms.BringsQuestion, answer=asked.brings, begins=("power", "spreading")),
        Asked(key="reach", title="How far should it reach?", form=forms.ReachQuestion, answer=asked.reach, begins=("power", "sensitivity", "frequency", "height1", "height2")),
        Asked(key="antenna", title="How long is the wire, how wide the beam?", form=forms.AntennaQuestion, answer=asked.antenna, begins=("frequency",)),
        Asked(key="air", title="How long is it on the air?", form=forms.AirQuestion, answer=asked.air, begins=("spreading", "bandwidth", "payload")),
        Asked(key="inductive", title="How far do two loops couple?", form=forms.InductiveQuestion, answer=asked.inductive),
        Asked(key="limits", title="What is allowed there?", form=forms.LimitsQuestion, answer=asked.limits, begins=("frequency", "region")),
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


@require_http_methods(["GET", "POST"])
@login_required
def begin(request: HttpRequest) -> HttpResponse:
    """Begin a study with what was asked."""
    if request.method == "POST":
        form = forms.BeginForm(request.POST)
        found: list[Study] = []
        if kept(form, lambda: found.append(services.begin_study(request.user, form.cleaned_data))):
            return go_to(request, "shelf:rig-edit", found[0].pk, found[0].rigs.get().pk)
    else:
        known = {
            name: text for name, text in request.GET.items() if name in forms.BeginForm.base_fields
        }
        form = forms.BeginForm(initial=known)
    status = 422 if form.is_bound else 200
    return render(request, "workbench/begin.html", {"form": form}, status=status)


def _row(one: Asked, request: HttpRequest) -> dict[str, Any]:
    """Return a question as the page shows it: with what was typed, else with its example."""
    typed = {f"{one.key}-{name}": text for name, text in one.form.typed.items()}
    given = {name: text for name, text in request.GET.items() if name in typed}
    form = one.form(typed | given, prefix=one.key)
    row: dict[str, Any] = {"question": one, "form": form, "answers": None, "wrong": ""}
    if not form.is_valid():
        return row
    if one.begins:
        said = {name: (typed | given)[f"{one.key}-{name}"] for name in one.begins}
        row["begins"] = urlencode({name: text for name, text in said.items() if text})
    try:
        row["answers"] = one.answer(form.cleaned_data)
    except ValueError as wrong:
        row["wrong"] = str(wrong)
    reach = row["answers"].reach if row["answers"] else None
    if reach is not None:
        row["tape"] = reach_tape(reach.low_m, reach.middle_m, reach.high_m)
    return row
