"""Jump to anything: a part for the dialog, a page without scripts."""

from __future__ import annotations

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_GET

from inchmark.learn.services.jump import found_for
from inchmark.pages.parts import page_or_part
from inchmark.people.services.rates import at_most
from inchmark.studies.models import Study

LONGEST = 60


@require_GET
@login_required
@at_most(240)
def jump(request: HttpRequest) -> HttpResponse:
    """Show what some letters may mean."""
    asked = request.GET.get("q", "").strip()[:LONGEST]
    number = request.GET.get("study", "")
    study = (
        Study.objects.visible_to(request.user).filter(pk=int(number)).first()
        if number.isascii() and number.isdigit() and len(number) < 10
        else None
    )
    context = {"asked": asked, "found": found_for(request.user, asked, study), "study_id": number}
    return page_or_part(request, "learn/jump.html", "learn/_found.html", context)
