"""Decisions: the one that stands with its evidence, those before it, and the form for the next."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_http_methods

from inchmark.decide.figures.evidence import Evidence
from inchmark.decide.forms import DecisionForm
from inchmark.decide.services import decisions as services
from inchmark.decide.services.draft import draft_of
from inchmark.decide.services.ground import rig_asked
from inchmark.pages.keeping import outcome
from inchmark.pages.parts import go_to
from inchmark.people.services.rates import at_most
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.studies.access import study_for


@require_http_methods(["GET", "HEAD", "POST"])
@login_required
@at_most(20)
def decision(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show what was decided; keep a new decision."""
    study = study_for(request, study_id)
    letters = [one.letter for one in rigs_of(study)]
    status = 200
    if request.method == "POST":
        form = DecisionForm(request.POST, letters=letters)
        if form.is_valid():
            taken = outcome(
                request,
                lambda: services.take_decision(study, request.user, **form.cleaned_data),
            )
            if taken is not None:
                messages.success(request, f"Decision {taken.number} is kept with its evidence.")
                return go_to(request, "decide:decision", study_id)
        status = 422
    else:
        rig = rig_asked(study, request.GET.get("rig", ""))
        asked = request.GET.get("chosen", "")[:200]
        form = DecisionForm(letters=letters, initial=draft_of(study, rig, asked, request.user))
    standing = services.standing(study)
    context = {
        "study": study,
        "room": "decide",
        "page": "decision",
        "form": form,
        "standing": standing,
        "evidence": Evidence(data=standing.evidence) if standing else None,
        "against": services.said_against(study, standing) if standing else [],
        "earlier": list(study.decisions.all()[1:]),
        "letters": letters,
    }
    return render(request, "decide/decision.html", context, status=status)
