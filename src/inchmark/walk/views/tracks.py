"""Where the ends were: tracks, the stops they measure, and a walk that never stands cut into bins."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_http_methods, require_POST

from inchmark.pages.keeping import kept, outcome, posted, posted_files
from inchmark.pages.parts import go_to
from inchmark.people.services.rates import at_most
from inchmark.plan.services.site import site_of
from inchmark.studies.access import reachable
from inchmark.studies.removing import removing
from inchmark.studies.services.undo import take_away
from inchmark.walk.figures import PlaceRow, place_rows, shift_words
from inchmark.walk.forms.tracks import ClockForm, CutForm, TrackForm
from inchmark.walk.models import FrameFile, Track, Walk
from inchmark.walk.services import tracks as services


@require_http_methods(["GET", "POST"])
@login_required
@at_most(20)
def tracks(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Show a walk's tracks and what they measure; take in a further one."""
    walk = _walk(request, study_id, walk_id)
    form = TrackForm(posted(request), posted_files(request))

    def keep() -> None:
        file = form.cleaned_data["file"]
        end = form.cleaned_data["end"]
        services.add_gpx(walk, file.name, file.read(), end=end, by=request.user)

    if kept(form, keep):
        messages.success(request, f"{form.cleaned_data['file'].name} is kept as a track.")
        return go_to(request, "walk:tracks", study_id, walk_id)
    return _page(request, walk, form=form)


@require_POST
@login_required
@at_most(20)
def track_from_log(request: HttpRequest, study_id: int, file_id: int) -> HttpResponse:
    """Take the positions of a log as a track."""
    files = FrameFile.objects.editable_by(request.user).select_related("walk__study")
    file = get_object_or_404(files, pk=file_id, walk__study=study_id)
    outcome(request, lambda: services.add_from_log(file, end=Track.CARRIED, by=request.user))
    return go_to(request, "walk:tracks", study_id, file.walk_id)


@require_POST
@login_required
def track_change(request: HttpRequest, study_id: int, track_id: int) -> HttpResponse:
    """Set a track's clock, or which end it is of; or remove it."""
    track = get_object_or_404(
        Track.objects.editable_by(request.user), pk=track_id, walk__study=study_id
    )
    if "remove" in request.POST:
        removing(request, lambda: take_away(track, f"Track {track.name}", track.walk.study))
        return go_to(request, "walk:tracks", study_id, track.walk_id)
    form = ClockForm(request.POST, instance=track)
    if kept(form, form.save):
        return go_to(request, "walk:tracks", study_id, track.walk_id)
    return _page(request, track.walk, clock=form)


@require_POST
@login_required
def tracks_measure(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Give the ticked stops the distances that the tracks measure."""
    walk = _walk(request, study_id, walk_id)
    labels = request.POST.getlist("stop")
    taken = outcome(request, lambda: services.take_places(walk, labels))
    if taken is not None:
        messages.success(
            request, f"{taken} stop{'s' if taken != 1 else ''} took the measured distance."
        )
    return go_to(request, "walk:tracks", study_id, walk_id)


@require_POST
@login_required
@at_most(12)
def tracks_cut(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Cut a walk that never stands into bins."""
    walk, form = _walk(request, study_id, walk_id), CutForm(request.POST)
    made: list[int] = []

    def cut() -> None:
        made.append(services.cut(walk, **form.cleaned_data, by=request.user))

    if kept(form, cut, file=None):
        messages.success(
            request, f"The walk is cut into {made[0]} bins; its logs are read by them."
        )
        return go_to(request, "walk:tracks", study_id, walk_id)
    return _page(request, walk, cut=form)


@require_POST
@login_required
@at_most(12)
def tracks_clocks(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Say how far the logs' clock is from the tracks'."""
    walk = _walk(request, study_id, walk_id)
    found = outcome(request, lambda: [services.clocks(walk)])
    if found is not None:
        messages.info(request, shift_words(found[0]))
    return go_to(request, "walk:tracks", study_id, walk_id)


def _walk(request: HttpRequest, study_id: int, walk_id: int) -> Walk:
    walks = reachable(request, Walk.objects).select_related("study")
    found: Walk = get_object_or_404(walks, pk=walk_id, study=study_id)
    return found


def _page(request: HttpRequest, walk: Walk, **bound: Any) -> HttpResponse:
    rows: list[PlaceRow] = []
    problem = ""
    own = list(walk.tracks.all())
    if own:
        rows, problem = place_rows(walk, site_of(walk.study))
    clock = bound.get("clock")
    context = {
        "study": walk.study,
        "room": "walk",
        "walk": walk,
        "tracks": [
            (
                t,
                clock
                if clock and clock.instance.pk == t.pk
                else ClockForm(instance=t, auto_id=f"track-{t.pk}-%s"),
            )
            for t in own
        ],
        "logs": walk.files.read_by_recipe(),
        "rows": rows,
        "problem": problem,
        "stays": walk.stays.count(),
        "form": bound.get("form") or TrackForm(),
        "cut": bound.get("cut") or CutForm(),
    }
    wrong = any(one.is_bound for one in bound.values())
    return render(request, "walk/tracks.html", context, status=422 if wrong else 200)
