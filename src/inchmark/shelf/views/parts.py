"""Parts of each kind: their list, and a page for each part."""

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from inchmark.pages.keeping import kept, posted, problems_of
from inchmark.pages.listing import Wanted
from inchmark.pages.parts import go_to, page_or_part
from inchmark.shelf import services
from inchmark.shelf.adapters.parts import feed_figures
from inchmark.shelf.adapters.rigs import BANDS, usual_band
from inchmark.shelf.drawings.settings import level_ruler
from inchmark.shelf.figures.lists import part_list
from inchmark.shelf.figures.parts import wire_lengths
from inchmark.shelf.figures.settings import sensitivity_ladder
from inchmark.shelf.figures.sweeps import sweep_figures
from inchmark.shelf.forms.parts import PART_FORMS, CalibrationForm, PartForm
from inchmark.shelf.forms.settings import ConsoleForm
from inchmark.shelf.models import Antenna, Feed, Module
from inchmark.studies.access import reachable, study_for
from inchmark.studies.models import Study
from inchmark.studies.removing import removing

NOUNS = {
    "modules": "module",
    "antennas": "antenna",
    "feeds": "feed",
    "batteries": "battery",
    "surroundings": "surrounding",
    "units": "unit",
}


def _form_of(kind: str) -> type[PartForm]:
    if kind not in PART_FORMS:
        raise Http404
    return PART_FORMS[kind]


@require_GET
@login_required
def parts(request: HttpRequest, study_id: int, kind: str) -> HttpResponse:
    """Show the parts of a kind, filtered and sorted as asked."""
    model = _form_of(kind)._meta.model
    study = study_for(request, study_id)
    found = model.objects.filter(study=study)
    if kind == "units":
        found = found.select_related("module", "antenna")
    frequency = usual_band(study).centre_hz
    context = _page_of(study, kind) | {
        "listing": part_list(kind, found, Wanted.of(request), frequency_hz=frequency)
    }
    return page_or_part(request, "shelf/parts.html", "shelf/_part_list.html", context)


@require_http_methods(["GET", "POST"])
@login_required
def part_add(request: HttpRequest, study_id: int, kind: str) -> HttpResponse:
    """Put a part on the shelf."""
    form_class = _form_of(kind)
    study = study_for(request, study_id, editing=True)
    blank = form_class._meta.model()
    data = posted(request)
    form = form_class(data, instance=blank, study=study)
    return _save(request, study, kind, form)


@require_http_methods(["GET", "POST"])
@login_required
def part(request: HttpRequest, study_id: int, kind: str, part_id: int) -> HttpResponse:
    """Show a part with what follows from it, and change it."""
    form_class = _form_of(kind)
    found = reachable(request, form_class._meta.model.objects)
    one = get_object_or_404(found.select_related("study"), pk=part_id, study_id=study_id)
    data = posted(request)
    return _save(request, one.study, kind, form_class(data, instance=one, study=one.study))


def _save(request: HttpRequest, study: Study, kind: str, form: PartForm) -> HttpResponse:
    if kept(form, lambda: services.parts.save_part(study, form.instance)):
        messages.success(request, f"{form.instance} is kept.")
        return go_to(request, form.instance)
    context = _page_of(study, kind) | {
        "form": form,
        "part": form.instance,
        **(_facts(form.instance) if form.instance.pk else {}),
    }
    return render(request, "shelf/part.html", context, status=422 if form.is_bound else 200)


def _page_of(study: Study, kind: str) -> dict[str, Any]:
    return {"study": study, "room": "shelf", "page": kind, "kind": kind, "noun": NOUNS[kind]}


def _facts(found: Any) -> dict[str, Any]:
    """Return what follows from a part, beside its own figures."""
    facts: dict[str, Any] = {"rigs": services.parts.rigs_with(found)}
    if isinstance(found, Module):
        settings = list(found.settings.all())
        steps = sensitivity_ladder(found, settings)
        ruler = level_ruler([step.figures.sensitivity.dbm for step in steps])
        facts["ladder"] = list(zip(steps, ruler.places, strict=True))
        facts["ruler"] = ruler
        facts["console"] = ConsoleForm()
        facts["calibration"] = CalibrationForm()
    if isinstance(found, Antenna):
        facts["wire"] = wire_lengths(found)
        sweeps = found.sweeps.defer("data")
        facts["sweeps"] = [(sweep, sweep_figures(sweep)) for sweep in sweeps]
    if isinstance(found, Feed):
        facts["losses"] = [feed_figures(found, band.centre_hz) for band in BANDS]
    return facts


@require_POST
@login_required
def part_remove(request: HttpRequest, study_id: int, kind: str, part_id: int) -> HttpResponse:
    """Take a part off the shelf, if nothing uses it."""
    found = _form_of(kind)._meta.model.objects.editable_by(request.user)
    one = get_object_or_404(found, pk=part_id, study_id=study_id)
    if not removing(request, lambda: services.parts.remove_part(one)):
        return go_to(request, one)
    return go_to(request, "shelf:parts", study_id, kind)


@require_POST
@login_required
def part_archive(request: HttpRequest, study_id: int, kind: str, part_id: int) -> HttpResponse:
    """Take a part out of the lists, or put it back."""
    found = _form_of(kind)._meta.model.objects.editable_by(request.user)
    one = get_object_or_404(found, pk=part_id, study_id=study_id)
    services.parts.archive_part(one, archived=request.POST.get("archived") == "1")
    return go_to(request, one)


@require_POST
@login_required
def module_calibrate(request: HttpRequest, study_id: int, module_id: int) -> HttpResponse:
    """Keep a module's RSSI offset from a known level."""
    found = Module.objects.editable_by(request.user).select_related("study")
    module = get_object_or_404(found, pk=module_id, study_id=study_id)
    form = CalibrationForm(request.POST)
    if kept(form, lambda: services.parts.calibrate_rssi(module, **form.cleaned_data)):
        return go_to(request, module)
    for problem in problems_of(form):
        messages.error(request, problem)
    return go_to(request, module)
