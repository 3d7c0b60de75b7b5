"""Candidates side by side: rigs or antennas, their figures and their sweeps."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from inchmark.formats.frame_log.writer import csv_lines
from inchmark.shelf.figures.beside import csv_rows
from inchmark.shelf.forms.beside import BesideForm
from inchmark.shelf.models import Antenna
from inchmark.shelf.services import beside
from inchmark.studies.access import study_for
from inchmark.studies.models import Study


@require_GET
@login_required
def rigs_beside(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show rigs side by side, or hand the table out as CSV."""
    study = study_for(request, study_id)
    form = BesideForm(request.GET, among=study.rigs.with_parts())
    return _answer(request, study, "rigs", form, lambda asked: beside.of_rigs(study, asked))


@require_GET
@login_required
def antennas_beside(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show antennas side by side, or hand the table out as CSV."""
    study = study_for(request, study_id)
    among = study.antenna_parts.filter(archived=False).exclude(type=Antenna.MAGNETIC)
    form = BesideForm(request.GET, among=among)
    return _answer(request, study, "antennas", form, lambda asked: beside.of_antennas(study, asked))


def _answer(
    request: HttpRequest,
    study: Study,
    kind: str,
    form: BesideForm,
    gather: Callable[[dict[str, Any]], beside.Gathered | None],
) -> HttpResponse:
    found = gather(form.cleaned_data if form.is_valid() else {"one": []})
    if request.GET.get("as") == "csv" and found is not None:
        columns, rows = csv_rows(found.table)
        answer = HttpResponse("".join(csv_lines(rows, columns)), "text/csv; charset=utf-8")
        answer["Content-Disposition"] = f'attachment; filename="study-{study.pk}-{kind}.csv"'
        return answer
    context = {
        "study": study, "room": "shelf", "page": "beside", "kind": kind, "form": form,
        "beside": found, "asked": request.GET.urlencode(),
    }  # fmt: skip
    return render(request, "shelf/beside.html", context, status=422 if form.errors else 200)
