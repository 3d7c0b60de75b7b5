"""Sources of a walk: what sends lines, what boards answered, and a board on this browser's own port."""

from __future__ import annotations

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from inchmark.people.services.rates import at_most
from inchmark.studies.access import reachable
from inchmark.studies.audit import leave_out, record
from inchmark.walk.forms.lines import LINE_END, Lines
from inchmark.walk.models import Walk
from inchmark.walk.services.compared import compared
from inchmark.walk.services.growing import SAID, append_lines
from inchmark.walk.views.live import appended, refused, sent_of

POSTS_A_MINUTE = 600  # a page that reads a board sends what has come twice a second


@require_GET
@login_required
def sources(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Show what sends into a walk and what boards answered; with how to bring in more."""
    walk = _walk(request, study_id, walk_id)
    read_backs, ends = compared(walk)
    context = {
        "study": walk.study,
        "room": "walk",
        "walk": walk,
        "sources": walk.files.exclude(source=""),
        "read_backs": read_backs,
        "ends": ends,
        "door": request.build_absolute_uri(reverse("api:add_lines", args=[walk.pk])),
    }
    return render(request, "walk/sources.html", context)


@require_GET
@login_required
def serial(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Show the page that reads a board on a serial port of this browser."""
    walk = _walk(request, study_id, walk_id, editing=True)
    context = {
        "study": walk.study,
        "room": "walk",
        "walk": walk,
        "stops": walk.study.stops.all(),
        "rigs": walk.study.rigs.all(),
        "constants": SAID,
    }
    return render(request, "walk/serial.html", context)


@require_POST
@login_required
@at_most(POSTS_A_MINUTE)
def lines(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Append lines that a page sends; the same lines again add nothing."""
    leave_out(request)
    walks = Walk.objects.loggable_by(request.user).select_related("study")
    walk = get_object_or_404(walks, pk=walk_id, study=study_id)
    sent = sent_of(request, Lines, "lines")
    if isinstance(sent, JsonResponse):
        return sent
    if sent.broken():
        return refused(LINE_END)
    answer = appended(lambda: append_lines(walk, by=request.user, **sent.model_dump()))
    if (
        sent.first == 1 and answer.status_code == 200
    ):  # one row for a source, not one for every post
        record(study_id, request.user.get_username(), "walk:lines", sent.source)
    return answer


def _walk(request: HttpRequest, study_id: int, walk_id: int, *, editing: bool = False) -> Walk:
    walks = reachable(request, Walk.objects, editing=editing).select_related("study")
    found: Walk = get_object_or_404(walks, pk=walk_id, study=study_id)
    return found
