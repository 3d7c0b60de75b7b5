"""Over one's studies: the same rig at other sites and on other days; a study as the start of the next."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from inchmark.decide.services.across import rigs_across
from inchmark.decide.services.bundles.copies import start_of_next
from inchmark.decide.services.lines import line_of
from inchmark.pages.parts import go_to
from inchmark.people.services.rates import at_most
from inchmark.studies.access import study_for


@require_GET
@login_required
@at_most(60)
def across(request: HttpRequest) -> HttpResponse:
    """Show every rig of one's studies with what each study says of it."""
    return render(request, "decide/across.html", {"rigs": rigs_across(request.user)})


@require_POST
@login_required
@at_most(12)
def copy(request: HttpRequest, study_id: int) -> HttpResponse:
    """Start a study of one's own with the shelf and the plan of this one."""
    study = study_for(request, study_id)
    made = start_of_next(study, request.user)
    messages.success(
        request, f"“{made.title}” begins with the shelf and the plan; nothing is walked."
    )
    return go_to(request, "shelf:rigs", made.pk)


@require_GET
@login_required
def line(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show one study's line of the start page: its tape, its answer, its state."""
    study = study_for(request, study_id)
    return render(request, "decide/_study_line.html", {"study": study, "line": line_of(study)})
