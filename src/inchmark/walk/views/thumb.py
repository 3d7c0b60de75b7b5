"""Counting by thumb on a phone: the page, what keeps it usable without a network, and its presses."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.contrib.auth.decorators import login_required
from django.contrib.staticfiles import finders
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.templatetags.static import static
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST
from pydantic import BaseModel

from inchmark.people.services.rates import at_most
from inchmark.studies.audit import leave_out, record
from inchmark.walk.figures import thumb_context
from inchmark.walk.forms.presses import Positions, Presses
from inchmark.walk.models import FrameFile, Walk
from inchmark.walk.services.positions import keep_positions
from inchmark.walk.services.presses import keep_presses
from inchmark.walk.views.live import appended, sent_of

POSTS_A_MINUTE = 120
WORKER = "pages/thumb-worker.js"


@require_GET
@login_required
def thumb(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Show the page for counting by thumb."""
    walk = _walk(request, study_id, walk_id)
    return render(request, "walk/thumb.html", thumb_context(walk))


@require_GET
@login_required
def worker(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Hand out the script that keeps the page when the network is off; its reach is this page."""
    _walk(request, study_id, walk_id)
    found = finders.find(WORKER)
    words = Path(str(found)).read_text(encoding="utf-8")
    return HttpResponse(words, content_type="text/javascript; charset=utf-8")


@require_GET
@login_required
def manifest(request: HttpRequest, study_id: int, walk_id: int) -> JsonResponse:
    """Say how the page is put on a phone's screen."""
    walk = _walk(request, study_id, walk_id)
    page = reverse("walk:thumb", args=[study_id, walk_id])
    told: dict[str, Any] = {
        "name": f"Inch Mark, {walk}",
        "short_name": "Inch Mark",
        "start_url": page,
        "scope": page,
        "display": "standalone",
        "background_color": "#ffffff",
        "icons": [{"src": static("pages/icon.svg"), "sizes": "any", "type": "image/svg+xml"}],
    }
    return JsonResponse(told, content_type="application/manifest+json")


@require_POST
@login_required
@at_most(POSTS_A_MINUTE)
def presses(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Keep presses of a phone; the same ones again add nothing."""
    return _kept(request, study_id, walk_id, Presses, keep_presses)


@require_POST
@login_required
@at_most(POSTS_A_MINUTE)
def positions(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Keep where a phone was; the same again adds nothing."""
    return _kept(request, study_id, walk_id, Positions, keep_positions)


def _kept(
    request: HttpRequest,
    study_id: int,
    walk_id: int,
    form: type[BaseModel],
    keep: Callable[..., FrameFile],
) -> HttpResponse:
    """Append what a phone sends; its first batch stands in the study's list of changes."""
    leave_out(request)
    walk, what = _walk(request, study_id, walk_id), form.__name__.lower()
    sent = sent_of(request, form, what)
    if isinstance(sent, JsonResponse):
        return sent
    values = sent.model_dump()
    answer = appended(lambda: keep(walk, by=request.user, **values))
    if values["first"] == 1 and answer.status_code == 200:
        record(study_id, request.user.get_username(), f"walk:{what}", str(walk))
    return answer


def _walk(request: HttpRequest, study_id: int, walk_id: int) -> Walk:
    """Return the walk for whoever may log into it, members and those with a pass."""
    walks = Walk.objects.loggable_by(request.user).select_related("study")
    found: Walk = get_object_or_404(walks, pk=walk_id, study=study_id)
    return found
