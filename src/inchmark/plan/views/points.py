"""Places that need a node, and further receivers."""

from functools import partial

from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_http_methods, require_POST

from inchmark.pages.keeping import dragged, kept, posted
from inchmark.pages.parts import go_to
from inchmark.plan import services
from inchmark.plan.forms import MoveForm, PointForm
from inchmark.plan.models import SitePoint
from inchmark.plan.views.stops import place_form
from inchmark.studies.access import study_for
from inchmark.studies.models import Study
from inchmark.studies.removing import removing


@require_http_methods(["GET", "POST"])
@login_required
def point_add(request: HttpRequest, study_id: int) -> HttpResponse:
    """Add a needed place or a receiver."""
    study = study_for(request, study_id, editing=True)
    start = {name: request.GET[name][:20] for name in ("lat", "lon", "kind") if name in request.GET}
    form = PointForm(posted(request), initial=start)
    return _save(request, study, form)


@require_http_methods(["GET", "POST"])
@login_required
def point_edit(request: HttpRequest, study_id: int, point_id: int) -> HttpResponse:
    """Change a needed place or a receiver."""
    study = study_for(request, study_id, editing=True)
    point = get_object_or_404(study.points, pk=point_id)
    form = PointForm(posted(request), instance=point)
    return _save(request, study, form)


def _save(request: HttpRequest, study: Study, form: PointForm) -> HttpResponse:
    if kept(form, lambda: services.points.save_point(study, form.instance)):
        return go_to(request, "plan:stops", study.pk)
    title = str(form.instance) if form.instance.pk else "A needed place or receiver"
    return place_form(request, study, form, title=title, noun="place")


@require_POST
@login_required
def point_remove(request: HttpRequest, study_id: int, point_id: int) -> HttpResponse:
    """Take a needed place or a receiver off the site."""
    editable = SitePoint.objects.editable_by(request.user)
    point = get_object_or_404(editable, pk=point_id, study=study_id)
    removing(request, lambda: services.points.remove_point(point))
    return go_to(request, "plan:stops", study_id)


@require_POST
@login_required
def point_move(request: HttpRequest, study_id: int, point_id: int) -> HttpResponse:
    """Move a place to where it was dragged, and say how far that is."""
    editable = SitePoint.objects.editable_by(request.user)
    point = get_object_or_404(editable, pk=point_id, study_id=study_id)
    return dragged(MoveForm(request.POST), partial(services.points.move_point, point))
