"""What each rig should do at each place, and single paths from the side."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET, require_http_methods

from inchmark.pages.keeping import kept
from inchmark.pages.parts import go_to
from inchmark.plan import services
from inchmark.plan.adapters.paths import (
    heights_of,
    profiles_of,
    view_of,
)
from inchmark.plan.adapters.places import FixedEnd, fixed_ends, targets_from
from inchmark.plan.adapters.predictions import best_predictions, predictions
from inchmark.plan.adapters.stops import stops_of
from inchmark.plan.adapters.terrain import grid_for
from inchmark.plan.adapters.walked import around_of
from inchmark.plan.drawings.path import drawing_of
from inchmark.plan.forms import ProfileForm
from inchmark.plan.models import SitePoint, Stop
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.studies.access import study_for
from inchmark.studies.models import Study


def _asked_end(request: HttpRequest, ends: list[FixedEnd]) -> FixedEnd | None:
    """Return the fixed end the address names, None if it names none."""
    asked = request.GET.get("by")
    return next((end for end in ends if end.label == asked), None)


@require_GET
@login_required
def predicted(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show what each rig should do at each stop and needed place, by one end or the best."""
    study = study_for(request, study_id)
    site, rigs = services.site_of(study), rigs_of(study)
    points = list(study.points.all())
    ends, grid = fixed_ends(site, points), grid_for(study)
    chosen = _asked_end(request, ends)
    heard_by = [chosen] if chosen else ends
    nodes = [point for point in points if point.kind == SitePoint.NODE]

    around = around_of(study, site, as_planned=request.GET.get("as") == "planned")

    def rows(ones: list[Any]) -> list[Any]:
        return best_predictions(ones, rigs, site, grid, heard_by, around=around)

    context = {
        "study": study,
        "room": "plan",
        "page": "predicted",
        "site": site,
        "rigs": rigs,
        "ends": ends,
        "chosen": chosen,
        "rows": rows(stops_of(study)),
        "nodes": rows(nodes),
        "around": around,
    }
    return render(request, "plan/predicted.html", context)


@require_http_methods(["GET", "POST"])
@login_required
def path(request: HttpRequest, study_id: int, stop_id: int) -> HttpResponse:
    """Show the path to a stop from the side, and keep a typed profile of it."""
    study = study_for(request, study_id)
    stop = get_object_or_404(Stop.objects.filter(study=study), pk=stop_id)
    form = ProfileForm(request.POST or None, initial={"rows": stop.profile})
    if kept(form, lambda: services.terrain.keep_profile(stop, form.cleaned_data["rows"])):
        return go_to(request, "plan:path", study.pk, stop.pk)
    return _side(request, study, stop, form)


@require_GET
@login_required
def point_path(request: HttpRequest, study_id: int, point_id: int) -> HttpResponse:
    """Show the path to a needed place from the side."""
    study = study_for(request, study_id)
    nodes = SitePoint.objects.filter(study=study, kind=SitePoint.NODE)
    return _side(request, study, get_object_or_404(nodes, pk=point_id), None)


def _side(
    request: HttpRequest, study: Study, place: Stop | SitePoint, form: ProfileForm | None
) -> HttpResponse:
    site, rigs = services.site_of(study), rigs_of(study)
    points, stops = list(study.points.all()), stops_of(study)
    ends = fixed_ends(site, points)
    end = _asked_end(request, ends) or ends[0]
    asked = request.GET.get("rig", "")
    rig = next((each for each in rigs if each.letter == asked), rigs[0] if rigs else None)
    targets, grid = targets_from([place], end), grid_for(study)
    profile = profiles_of(targets, end, grid)[0] if targets else None
    view, cells = None, []
    if rig and targets:
        cells = predictions(targets, [rig], site, grid, end, around=around_of(study, site))
    if rig and profile:
        heights = heights_of(rig, end, targets[0])
        view = view_of(profile, rig, heights, site)
    context = {
        "study": study,
        "room": "plan",
        "page": "predicted",
        "stop": place,
        "target": targets[0] if targets else None,
        "stops": stops,
        "nodes": [point for point in points if point.kind == SitePoint.NODE],
        "ends": ends,
        "end": end,
        "rig": rig,
        "rigs": rigs,
        "view": view,
        "heights": heights if view else None,
        "cell": cells[0].cells[0] if cells else None,
        "drawing": drawing_of(view) if view else None,
        "form": form,
    }
    status = 422 if form is not None and form.errors else 200
    return render(request, "plan/path.html", context, status=status)
