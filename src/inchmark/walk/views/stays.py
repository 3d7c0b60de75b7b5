"""The timeline of a walk: who stood where, when."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_http_methods, require_POST

from inchmark.pages.keeping import done, kept, posted
from inchmark.pages.parts import go_to
from inchmark.people.services.rates import at_most
from inchmark.studies.access import reachable
from inchmark.studies.memory import per_revision
from inchmark.walk.drawings.time_strip import TimeStrip, strip_of
from inchmark.walk.forms.recipes import ClockSetForm, EdgeForm, TimelineForm
from inchmark.walk.models import FrameFile, Walk
from inchmark.walk.services import clocks
from inchmark.walk.services import stays as services
from inchmark.walk.services.stays import zone_of_walk


@require_http_methods(["GET", "POST"])
@login_required
@at_most(20)
def stays(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Show a walk as a strip of time, and keep who stood where when."""
    walks = reachable(request, Walk.objects).select_related("study")
    walk = get_object_or_404(walks, pk=walk_id, study=study_id)
    form = TimelineForm(posted(request), initial={"text": services.timeline_text(walk)})

    def keep() -> None:
        services.keep_timeline(walk, form.cleaned_data["text"], request.user)

    if kept(form, keep, file="text"):
        _read_anew(request, walk, "The timeline is kept")
        return go_to(request, "walk:stays", study_id, walk_id)
    context = {
        "study": walk.study,
        "room": "walk",
        "walk": walk,
        "form": form,
        "clocks": per_revision(
            walk.study, "clocks", lambda: clocks.clock_rows(walk), walk.pk, walk.files.count()
        ),
        "too_large": clocks.too_large(walk),
        "strip": per_revision(
            walk.study,
            "strip",
            lambda: _strip(walk),
            (
                walk.pk,
                walk.files.count(),
                walk.marks.count(),
                walk.photos.count(),
                walk.tracks.count(),
            ),
        ),
    }
    return render(request, "walk/stays.html", context, status=422 if form.is_bound else 200)


@require_POST
@login_required
@at_most(30)
def stay_move(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Move the end of a stay that was dragged, and read the logs anew by it."""
    walks = Walk.objects.editable_by(request.user).select_related("study")
    walk = get_object_or_404(walks, pk=walk_id, study=study_id)
    form = EdgeForm(request.POST)

    def move() -> None:
        if not form.is_valid():
            raise ValidationError("A boundary moves by seconds, within a day. Nothing was moved.")
        asked = form.cleaned_data
        services.move_edge(walk, asked["stay"], asked["which"], asked["by_s"])

    if done(request, move):
        _read_anew(request, walk, "The boundary is moved")
    return go_to(request, "walk:stays", study_id, walk_id)


@require_POST
@login_required
@at_most(20)
def clock_set(request: HttpRequest, study_id: int, file_id: int) -> HttpResponse:
    """Add to a log's clock what frames that both know say, and read it anew."""
    files = FrameFile.objects.editable_by(request.user).select_related("walk__study")
    file = get_object_or_404(files, pk=file_id, walk__study=study_id, recipe__isnull=False)
    form = ClockSetForm(request.POST)
    if form.is_valid():
        add_s = form.cleaned_data["add_s"]
        if done(request, lambda: clocks.set_clock(file, add_s)):
            messages.success(
                request, f"{file.name}: {add_s:+.0f} s on its clock; it was read anew."
            )
    else:
        messages.error(request, "A clock is set by seconds, within a day. Nothing was changed.")
    return go_to(request, "walk:stays", study_id, file.walk_id)


def _strip(walk: Walk) -> TimeStrip | None:
    return strip_of(walk, zone_of_walk(walk), services.unplaced_moments(walk))


def _read_anew(request: HttpRequest, walk: Walk, what: str) -> None:
    again = services.read_by_timeline(walk)
    messages.success(
        request, f"{what}; {again} log{'s were' if again != 1 else ' was'} read anew by it."
    )
