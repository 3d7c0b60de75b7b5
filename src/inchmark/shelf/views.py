"""The shelf: a study's rigs, and what each should do."""

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.exceptions import ValidationError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from inchmark.devices.analyser import AnalyserError
from inchmark.formats.errors import UnreadableFileError
from inchmark.pages.parts import go_to, streamed
from inchmark.shelf import records, services
from inchmark.shelf.forms import AnalyserForm, LadderForm, RigForm, SweepForm
from inchmark.shelf.models import ConductedCheck, Rig, Sweep
from inchmark.studies.models import Study


@require_GET
@login_required
def rigs(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the rigs with airtime, sensitivity and what an hour allows."""
    study = get_object_or_404(Study.objects.visible_to(request.user), pk=study_id)
    shelf = [(rig, records.rigs.figures_of(rig)) for rig in study.rigs.all()]
    return render(request, "shelf/rigs.html", {"study": study, "shelf": shelf, "room": "shelf"})


@require_http_methods(["GET", "POST"])
@login_required
def rig_add(request: HttpRequest, study_id: int) -> HttpResponse:
    """Put a rig on the shelf."""
    study = get_object_or_404(Study.objects.editable_by(request.user), pk=study_id)
    start = Rig(letter=services.rigs.next_letter(study), spreading_factor=7)
    data = request.POST if request.method == "POST" else None
    form = RigForm(data, instance=start, study=study)
    return _save(request, study, form, "shelf/rig_add.html")


@require_http_methods(["GET", "POST"])
@login_required
def rig_edit(request: HttpRequest, study_id: int, rig_id: int) -> HttpResponse:
    """Change a rig."""
    study = get_object_or_404(Study.objects.editable_by(request.user), pk=study_id)
    rig = get_object_or_404(study.rigs, pk=rig_id)
    data = request.POST if request.method == "POST" else None
    form = RigForm(data, instance=rig, study=study)
    return _save(request, study, form, "shelf/rig_edit.html")


def _save(request: HttpRequest, study: Study, form: RigForm, page: str) -> HttpResponse:
    if form.is_valid():
        try:
            services.rigs.save_rig(study, form.instance)
            return go_to(request, "shelf:rigs", study.pk)
        except ValidationError as wrong:
            form.add_error(None, wrong.messages)
    context = {"study": study, "form": form, "room": "shelf", "rig": form.instance}
    return render(request, page, context, status=422 if form.is_bound else 200)


@require_POST
@login_required
def rig_copy(request: HttpRequest, study_id: int, rig_id: int) -> HttpResponse:
    """Copy a rig to change one thing on the copy."""
    study = get_object_or_404(Study.objects.editable_by(request.user), pk=study_id)
    rig = get_object_or_404(study.rigs, pk=rig_id)
    copy = services.rigs.copy_rig(rig)
    return go_to(request, "shelf:rig-edit", study.pk, copy.pk)


@require_POST
@login_required
def rig_remove(request: HttpRequest, study_id: int, rig_id: int) -> HttpResponse:
    """Take a rig off the shelf."""
    rig = get_object_or_404(Rig.objects.editable_by(request.user), pk=rig_id, study=study_id)
    try:
        services.rigs.remove_rig(rig)
    except ValidationError as wrong:
        messages.error(request, " ".join(wrong.messages))
    return go_to(request, "shelf:rigs", study_id)


@require_GET
@login_required
def sweeps_page(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the sweeps with what each says, and the trim logs."""
    study = get_object_or_404(Study.objects.visible_to(request.user), pk=study_id)
    form = SweepForm(instance=services.sweeps.next_sweep(study))
    return render(request, "shelf/sweeps.html", _sweeps_context(study, form, AnalyserForm()))


def _sweeps_context(study: Study, form: SweepForm, analyser: AnalyserForm) -> dict[str, object]:
    found = list(study.sweeps.defer("data"))
    return {
        "study": study,
        "room": "shelf",
        "sweeps": [(sweep, records.sweeps.figures_of(sweep)) for sweep in found],
        "logs": records.sweeps.trim_logs(found),
        "form": form,
        "analyser": analyser,
    }


@require_POST
@login_required
def sweep_add(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keep a sweep, from a file or from an analyser."""
    study = get_object_or_404(Study.objects.editable_by(request.user), pk=study_id)
    form = SweepForm(request.POST, request.FILES)
    reads = request.POST.get("way") == "analyser"
    analyser = AnalyserForm(request.POST) if reads else AnalyserForm()
    if form.is_valid() and (not reads or analyser.is_valid()):
        try:
            return go_to(request, _keep(study, form, analyser))
        except (UnreadableFileError, AnalyserError) as wrong:
            form.add_error(None if reads else "file", str(wrong))
        except ValidationError as wrong:
            form.add_error(None, wrong.messages)
    context = _sweeps_context(study, form, analyser)
    return render(request, "shelf/sweeps.html", context, status=422)


def _keep(study: Study, form: SweepForm, analyser: AnalyserForm) -> Sweep:
    if analyser.is_bound:
        return services.sweeps.read_from_analyser(study, form.instance, **analyser.cleaned_data)
    file = form.cleaned_data["file"]
    if file is None:
        raise UnreadableFileError("Choose a sweep file, or read from an analyser.")
    return services.sweeps.keep_sweep(study, form.instance, name=file.name, data=file.read())


@require_GET
@login_required
def sweep_page(request: HttpRequest, study_id: int, sweep_id: int) -> HttpResponse:
    """Show one sweep: match against frequency with its band, and what it says."""
    sweep = get_object_or_404(Sweep.objects.visible_to(request.user), pk=sweep_id, study=study_id)
    context = {
        "study": sweep.study,
        "room": "shelf",
        "sweep": sweep,
        "figures": records.sweeps.figures_of(sweep),
        "chart": records.sweeps.chart_data(sweep),
    }
    return render(request, "shelf/sweep.html", context)


@require_GET
@login_required
def sweep_file(request: HttpRequest, study_id: int, sweep_id: int) -> HttpResponse:
    """Hand the file back as it came."""
    sweep = get_object_or_404(Sweep.objects.visible_to(request.user), pk=sweep_id, study=study_id)
    return streamed(
        request,
        iter([bytes(sweep.data)]),
        content_type="application/octet-stream",
        filename=sweep.name,
    )


@require_POST
@login_required
def sweep_remove(request: HttpRequest, study_id: int, sweep_id: int) -> HttpResponse:
    """Take a sweep off the shelf."""
    sweep = get_object_or_404(Sweep.objects.editable_by(request.user), pk=sweep_id, study=study_id)
    services.sweeps.remove_sweep(sweep)
    return go_to(request, "shelf:sweeps", study_id)


@require_http_methods(["GET", "POST"])
@login_required
def ladders(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the conducted ladders, and keep a new one."""
    studies = Study.objects
    found = (
        studies.editable_by(request.user)
        if request.method == "POST"
        else studies.visible_to(request.user)
    )
    study = get_object_or_404(found, pk=study_id)
    form = LadderForm(
        request.POST if request.method == "POST" else None,
        study=study,
        initial={"checked_on": timezone.localdate(), "source_dbm": 0.0},
    )
    if form.is_valid():
        try:
            services.conducted.keep_ladder(study, form.instance)
            return go_to(request, "shelf:ladders", study.pk)
        except ValidationError as wrong:
            form.add_error(None, wrong.messages)
    checks = study.conducted_checks.select_related("rig")
    context = {
        "study": study,
        "room": "shelf",
        "form": form,
        "ladders": [(check, check.reading) for check in checks],
    }
    return render(request, "shelf/ladders.html", context, status=422 if form.is_bound else 200)


@require_POST
@login_required
def ladder_use(request: HttpRequest, study_id: int, check_id: int) -> HttpResponse:
    """Let a ladder's level stand in for the datasheet, or go back to it."""
    checks = ConductedCheck.objects.editable_by(request.user).select_related("rig", "study")
    check = get_object_or_404(checks, pk=check_id, study=study_id)
    try:
        if request.POST.get("use") == "datasheet":
            services.conducted.use_datasheet(check.rig)
        else:
            services.conducted.use_ladder(check)
    except ValidationError as wrong:
        messages.error(request, " ".join(wrong.messages))
    return go_to(request, "shelf:ladders", study_id)
