"""Walls that paths cross."""

from functools import partial

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_http_methods, require_POST

from inchmark.formats.ground_points import read_points
from inchmark.pages.keeping import kept, posted
from inchmark.pages.parts import go_to
from inchmark.plan import services
from inchmark.plan.adapters.places import place_of
from inchmark.plan.forms import WallForm
from inchmark.plan.models import SiteWall
from inchmark.plan.views.stops import place_form
from inchmark.studies.access import study_for
from inchmark.studies.models import Study
from inchmark.studies.removing import removing

LONGEST = 8000  # characters of points in an address


@require_http_methods(["GET", "POST"])
@login_required
def wall_add(request: HttpRequest, study_id: int) -> HttpResponse:
    """Add a wall, typed or as it was drawn on the map."""
    study = study_for(request, study_id, editing=True)
    drawn = request.GET.get("points", "")[:LONGEST].replace(";", "\n")
    return _save(request, study, SiteWall(), {"line": drawn} if drawn else {})


@require_http_methods(["GET", "POST"])
@login_required
def wall_edit(request: HttpRequest, study_id: int, wall_id: int) -> HttpResponse:
    """Change a wall."""
    study = study_for(request, study_id, editing=True)
    return _save(request, study, get_object_or_404(study.walls, pk=wall_id), {})


def _save(
    request: HttpRequest, study: Study, wall: SiteWall, start: dict[str, str]
) -> HttpResponse:
    read = partial(read_points, start=place_of(services.site_of(study)))
    form = WallForm(posted(request), instance=wall, read=read, initial=start)
    if kept(form, lambda: services.walls.save_wall(study, form.instance)):
        return go_to(request, "plan:map", study.pk)
    title = f"The wall “{wall}”" if wall.pk else "A wall"
    return place_form(request, study, form, title=title, noun="wall", page="map")


@require_POST
@login_required
def wall_remove(request: HttpRequest, study_id: int, wall_id: int) -> HttpResponse:
    """Take a wall off."""
    editable = SiteWall.objects.editable_by(request.user)
    wall = get_object_or_404(editable, pk=wall_id, study=study_id)
    removing(request, lambda: services.walls.remove_wall(wall))
    return go_to(request, "plan:map", study_id)
