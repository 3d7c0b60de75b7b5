"""The work done for a study in the background, on one page."""

from __future__ import annotations

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_GET

from inchmark.pages.parts import page_or_part
from inchmark.studies.access import study_for
from inchmark.upkeep.services.work import WAITS, work_of


@require_GET
@login_required
def work(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show what waits, runs or failed, and offer to try it again."""
    study = study_for(request, study_id)
    found = work_of(study)
    context = {
        "study": study,
        "work": found,
        "busy": any(one.state == WAITS for one in found),
    }
    return page_or_part(request, "upkeep/work.html", "upkeep/_work.html", context)
