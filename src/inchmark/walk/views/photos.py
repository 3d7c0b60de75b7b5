"""Photos of a walk: kept small, shown to who may see the walk."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
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
    if not form.is_valid():
        messages.error(
            request, " ".join(str(words) for all_ in form.errors.values() for words in all_)
        )
    else:
        stay, now = standing_now(walk, timezone.now()), timezone.now()
        try:
            keep_photo(
                walk,
                form.cleaned_data["file"],
                by=request.user,
                text=form.cleaned_data["text"],
                at=now,
                stop=stay.stop if stay else None,
            )
            messages.success(request, "The photo is kept, without its position.")
        except RefusedError as wrong:
            messages.error(request, str(wrong))
    return redirect("walk:desk", study_id, walk_id)


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
