"""Practice: choose a site, send the boards out, claim, see the truth."""

from __future__ import annotations

import secrets
from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET, require_POST

from inchmark.learn.figures.sites import board_of, sites
from inchmark.learn.forms import BeginForm, BlindWalkForm
from inchmark.learn.models import Practice
from inchmark.learn.services.practice import begin_practice, show_truth_of, walk_blind
from inchmark.learn.services.truths import shown_of
from inchmark.pages.keeping import done, kept
from inchmark.pages.parts import go_to
from inchmark.people.services.rates import at_most

MADE_SEEDS = 10_000


@require_GET
@login_required
def practice(request: HttpRequest) -> HttpResponse:
    """Show the ten made sites, and the door to more."""
    return render(request, "learn/practice.html", _choice(request, BeginForm()))


def _choice(request: HttpRequest, form: BeginForm) -> dict[str, Any]:
    mine = Practice.objects.visible_to(request.user).select_related("study").order_by("-pk")
    return {"sites": sites(), "form": form, "mine": mine[:20]}


@require_POST
@login_required
@at_most(12)
def begin(request: HttpRequest) -> HttpResponse:
    """Set a site up."""
    form = BeginForm(request.POST)
    if form.is_valid():
        seed = form.cleaned_data["seed"] or 1 + secrets.randbelow(MADE_SEEDS)
        made = begin_practice(request.user, form.cleaned_data["scenario"], seed)
        return go_to(request, "practice-board", made.study_id)
    return render(request, "learn/practice.html", _choice(request, form), status=422)


@require_GET
@login_required
def board(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show what is left of the time, where to send the boards, and the truth once it may be seen."""
    found = get_object_or_404(Practice.objects.visible_to(request.user), study=study_id)
    return render(request, "learn/board.html", _board(found))


def _board(found: Practice, form: BlindWalkForm | None = None) -> dict[str, Any]:
    return {
        "study": found.study,
        "practice": found,
        "board": board_of(found),
        "form": form or BlindWalkForm(list(found.study.stops.all())),
        "shown": shown_of(found) if found.shown_at else None,
    }


@require_POST
@login_required
@at_most(12)
def walk(request: HttpRequest, study_id: int) -> HttpResponse:
    """Send the boards out."""
    found = get_object_or_404(Practice.objects.editable_by(request.user), study=study_id)
    form = BlindWalkForm(list(found.study.stops.all()), request.POST)
    if kept(form, lambda: walk_blind(found, by=request.user, **form.cleaned_data)):
        return go_to(request, found.study.walks.order_by("number").last())
    return render(request, "learn/board.html", _board(found, form), status=422)


@require_POST
@login_required
def show_truth(request: HttpRequest, study_id: int) -> HttpResponse:
    """Take the reading as the claim, and show the truth beside it."""
    found = get_object_or_404(Practice.objects.editable_by(request.user), study=study_id)
    done(request, lambda: show_truth_of(found))
    return go_to(request, "practice-board", study_id)
