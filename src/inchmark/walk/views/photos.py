"""Photos of a walk: kept small, shown to who may see the walk."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from inchmark.people.services.rates import at_most
from inchmark.studies.access import reachable
from inchmark.walk.forms.marks import PhotoForm
from inchmark.walk.models import Photo, Walk
from inchmark.walk.services.photos import keep_photo
from inchmark.walk.services.receive import RefusedError
from inchmark.walk.services.standing import standing_now

POSTS_A_MINUTE = 20


@require_POST
@login_required
@at_most(POSTS_A_MINUTE)
def photo_add(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Keep a photo of a walk, at the stop where the carried end stands now."""
    walk = get_object_or_404(Walk.objects.loggable_by(request.user), pk=walk_id, study=study_id)
    form = PhotoForm(request.POST, request.FILES)
    refused = _why_refused(walk, form, request.user)
    if request.accepts("text/html"):
        if refused:
            messages.error(request, refused)
        else:
            messages.success(request, "The photo is kept, without its position.")
        return redirect("walk:desk", study_id, walk_id)
    return JsonResponse({"detail": refused}, status=422 if refused else 200)


def _why_refused(walk: Walk, form: PhotoForm, by: Any) -> str:
    """Keep a photo; return why it was not, empty where it was."""
    if not form.is_valid():
        return " ".join(str(words) for all_ in form.errors.values() for words in all_)
    at, label = form.cleaned_data["at"] or timezone.now(), form.cleaned_data["stop"]
    stay = standing_now(walk, at)
    stop = walk.study.stops.filter(label=label).first() if label else stay and stay.stop
    picture, text = form.cleaned_data["file"], form.cleaned_data["text"]
    try:
        keep_photo(walk, picture, by=by, text=text, at=at, stop=stop or None)
    except RefusedError as wrong:
        return str(wrong)
    return ""


@require_GET
@login_required
def photo(request: HttpRequest, study_id: int, photo_id: int) -> HttpResponse:
    """Hand a photo out."""
    found: Photo = get_object_or_404(
        reachable(request, Photo.objects), pk=photo_id, walk__study=study_id
    )
    answer = HttpResponse(bytes(found.data), content_type="image/jpeg")
    answer["Cache-Control"] = "private, max-age=86400"
    return answer
