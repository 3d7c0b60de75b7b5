"""The plan: the question, the fixed end, and the stops."""

from functools import partial

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.forms import ModelForm
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from inchmark.formats.errors import UnreadableFileError
from inchmark.pages.keeping import kept, posted, taken
from inchmark.pages.parts import go_to
from inchmark.people.services.rates import at_most
from inchmark.plan import services
from inchmark.plan.adapters.paths import surroundings_of
from inchmark.plan.adapters.stops import stops_of
from inchmark.plan.figures.stops import measured_points, measured_stops, predicted_range
from inchmark.plan.forms import SiteForm, StopForm, StopsFileForm, TerrainForm
from inchmark.plan.models import SitePoint, Stop, Terrain
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.studies.access import study_for
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study
from inchmark.studies.removing import removing

STOPS_FILE_LIMIT = 1024 * 1024


@require_GET
@login_required
def stops(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the stops with how each distance was measured.

    And what each rig is expected to reach.
    """
    study = study_for(request, study_id)
    return _page(request, study)


def _page(
    request: HttpRequest,
    study: Study,
    *,
    file_form: StopsFileForm | None = None,
    terrain_form: TerrainForm | None = None,
    status: int = 200,
) -> HttpResponse:
    site = services.site_of(study)
    terrain = Terrain.objects.filter(study=study).defer("heights", "cover", "contours")
    context = {
        "study": study,
        "room": "plan",
        "site": site,
        "page": "stops",
        "stops": per_revision(
            study, "measured-stops", lambda: measured_stops(stops_of(study), site)
        ),
        "points": measured_points(list(study.points.all()), site),
        "terrain": terrain.first(),
        "terrain_form": terrain_form or TerrainForm(),
        "expected": per_revision(
            study,
            "expected",
            lambda: [(rig, predicted_range(study, rig, site)) for rig in rigs_of(study)],
        ),
        "around": surroundings_of(site),
        "file_form": file_form or StopsFileForm(),
    }
    return render(request, "plan/stops.html", context, status=status)


@require_http_methods(["GET", "POST"])
@login_required
def site_edit(request: HttpRequest, study_id: int) -> HttpResponse:
    """Place the fixed end."""
    study = study_for(request, study_id, editing=True)
    form = SiteForm(posted(request), instance=services.site_of(study), study=study)
    if kept(form, lambda: services.place_fixed_end(study, form.instance)):
        return go_to(request, "plan:stops", study.pk)
    context = {"study": study, "room": "plan", "page": "stops", "form": form}
    return render(request, "plan/site_edit.html", context, status=422 if form.is_bound else 200)


@require_http_methods(["GET", "POST"])
@login_required
def stop_add(request: HttpRequest, study_id: int) -> HttpResponse:
    """Add a stop."""
    study = study_for(request, study_id, editing=True)
    picked = {name: request.GET[name][:20] for name in ("lat", "lon") if name in request.GET}
    method = "map" if picked else "tape"
    start = {"label": str(study.stops.count() + 1), "method": method, **picked}
    return _save(request, study, StopForm(posted(request), initial=start))


@require_http_methods(["GET", "POST"])
@login_required
def stop_edit(request: HttpRequest, study_id: int, stop_id: int) -> HttpResponse:
    """Change a stop."""
    study = study_for(request, study_id, editing=True)
    stop = get_object_or_404(study.stops, pk=stop_id)
    return _save(request, study, StopForm(posted(request), instance=stop))


def _save(request: HttpRequest, study: Study, form: StopForm) -> HttpResponse:
    if kept(form, lambda: services.save_stop(study, form.instance)):
        return go_to(request, "plan:stops", study.pk)
    title = f"Stop {form.instance.label}" if form.instance.pk else "A new stop"
    return place_form(request, study, form, title=title, noun="stop")


def place_form(
    request: HttpRequest,
    study: Study,
    form: ModelForm,
    *,
    title: str,
    noun: str,
    page: str = "stops",
) -> HttpResponse:
    """Show the form of a stop, another place or a wall; it belongs to a page of the plan."""
    context = {"study": study, "room": "plan", "page": page, "form": form}
    context |= {"title": title, "noun": noun, "back": reverse(f"plan:{page}", args=[study.pk])}
    return render(request, "plan/place_form.html", context, status=422 if form.is_bound else 200)


@require_POST
@login_required
def stop_remove(request: HttpRequest, study_id: int, stop_id: int) -> HttpResponse:
    """Take a stop off the plan."""
    stop = get_object_or_404(Stop.objects.editable_by(request.user), pk=stop_id, study=study_id)
    removing(request, lambda: services.remove_stop(stop))
    return go_to(request, "plan:stops", study_id)


@require_POST
@login_required
@at_most(20)
def stops_file(request: HttpRequest, study_id: int) -> HttpResponse:
    """Read a stops file."""
    study = study_for(request, study_id)
    form = StopsFileForm(request.POST, request.FILES)

    def keep() -> None:
        kind = dict(form.KINDS).get(form.cleaned_data["kind"], "stops")
        _tell(request, _read(study, form), kind)

    if kept(form, keep):
        return go_to(request, "plan:stops", study.pk)
    return _page(request, study, file_form=form, status=422)


def _read(study: Study, form: StopsFileForm) -> services.StopsRead:
    file, kind = form.cleaned_data["file"], form.cleaned_data["kind"]
    if kind in (SitePoint.NODE, SitePoint.RECEIVER):
        return services.points.add_points_file(study, file.read(), file.name, kind)
    if file.name.lower().endswith((".gpx", ".geojson", ".json")):
        ways = {name: form.cleaned_data[name] for name in ("every_m", "doubling_from_m")}
        return services.add_places_file(study, file.read(), file.name, **ways)
    if file.size > STOPS_FILE_LIMIT:
        raise UnreadableFileError(
            "A stops file is under 1 MB. Is this the frame log? That goes to Walk."
        )
    return services.add_stops_file(study, file.read())


def _tell(request: HttpRequest, read: services.StopsRead, what: str) -> None:
    known = f" {read.known} were known already and stay as they are." if read.known else ""
    messages.success(request, f"{read.added} {what} added.{known}")
    for bad in read.bad[:20]:
        where = f"Line {bad.number}: " if bad.number else ""
        messages.warning(request, f"{where}{bad.reason}")


@require_POST
@login_required
@at_most(12)
def terrain_add(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keep a terrain file."""
    study = study_for(request, study_id)
    form = TerrainForm(request.POST, request.FILES)
    if taken(request, form, partial(services.terrain.keep_terrain, study), "is kept."):
        return go_to(request, "plan:stops", study.pk)
    return _page(request, study, terrain_form=form, status=422)


@require_POST
@login_required
def terrain_remove(request: HttpRequest, study_id: int) -> HttpResponse:
    """Take the terrain off."""
    study = study_for(request, study_id)
    services.terrain.remove_terrain(study)
    return go_to(request, "plan:stops", study.pk)
