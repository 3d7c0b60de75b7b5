"""The walk: outings, their logs, and lines that could not be read."""

from typing import Any

from django import forms
from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.html import format_html_join
from django.utils.safestring import SafeString
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from inchmark.pages.keeping import done, kept, outcome, posted, problems_of
from inchmark.pages.parts import go_to, page_or_part, streamed, unless_known
from inchmark.people.services.rates import at_most
from inchmark.plan.services.design import start_problems
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.studies.access import reachable, study_for
from inchmark.studies.memory import per_revision
from inchmark.walk.forms.walks import (
    BadLinesForm,
    LogForm,
    PassForm,
    SilentVisitForm,
    UnitsForm,
    WalkForm,
)
from inchmark.walk.models import FrameFile, Walk
from inchmark.walk.services import boards, outing, receive, recipes
from inchmark.walk.services.retention import without_lines

BAD_LINES_A_PAGE = 50


@require_GET
@login_required
def walks(request: HttpRequest, study_id: int) -> HttpResponse:
    """Go to the latest walk, or to the form for a first one."""
    study = study_for(request, study_id)
    latest = study.walks.last()
    if latest:
        return go_to(request, latest)
    context = {
        "study": study,
        "room": "walk",
        "form": WalkForm(initial={"walked_on": timezone.localdate()}),
    }
    return render(request, "walk/walk_add.html", context)


@require_http_methods(["GET", "POST"])
@login_required
def walk_add(request: HttpRequest, study_id: int) -> HttpResponse:
    """Start a walk."""
    study = study_for(request, study_id, editing=True)
    form = WalkForm(
        posted(request),
        initial={"walked_on": timezone.localdate()},
    )
    if form.is_valid():
        problems = start_problems(study)
        if not problems:
            return go_to(request, outing.start_walk(study, **form.cleaned_data))
        form.add_error(None, problems)
    context = {"study": study, "room": "walk", "form": form}
    return render(request, "walk/walk_add.html", context, status=422 if form.is_bound else 200)


@require_http_methods(["GET", "POST"])
@login_required
def walk_edit(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Change a walk's date, people, weather, interval or counter."""
    walk = get_object_or_404(Walk.objects.editable_by(request.user), pk=walk_id, study=study_id)
    form = WalkForm(posted(request), instance=walk)
    if form.is_valid():
        return go_to(request, outing.change_walk(form.instance))
    context = {"study": walk.study, "room": "walk", "form": form, "walk": walk}
    return render(request, "walk/walk_edit.html", context, status=422 if form.is_bound else 200)


@require_GET
@login_required
def walk(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Show a walk: its logs with their state, its visits, and what can be added."""
    found = get_object_or_404(Walk.objects.visible_to(request.user), pk=walk_id, study=study_id)
    return page_or_part(request, "walk/walk.html", "walk/_files.html", _context(found))


def _context(found: Walk, **sent: Any) -> dict[str, object]:
    files, silent = list(found.files.select_related("progress")), sent.get("silent")
    rigs_of(found.study)  # read once for the forms and the tape
    return {
        "study": found.study,
        "room": "walk",
        "walk": found,
        "walks": found.study.walks.all(),
        "files": files,
        "busy": any(file.state in (FrameFile.RECEIVING, FrameFile.WAITING) for file in files),
        "visits": per_revision(found.study, "walk-visits", lambda: _visit_rows(found), found.pk),
        "form": sent.get("form") or LogForm(),
        "units": per_revision(
            found.study, "walk-units", lambda: _fields(UnitsForm(found)), found.pk
        ),
        "used": list(found.units.select_related("rig", "unit")),
        "silent": silent,
        "passes": list(found.passes.all()),
        "pass_form": PassForm(),
        "silent_fields": _fields(silent)
        if silent
        else per_revision(
            found.study, "walk-silent", lambda: _fields(SilentVisitForm(found.study))
        ),
    }


def _fields(form: forms.Form) -> SafeString:
    """Return the fields of a form, drawn."""
    return format_html_join("", "{}", ((field.as_field_group(),) for field in form))


def _visit_rows(found: Walk) -> SafeString:
    """Return the visits of a walk, drawn."""
    visits = (
        found.visits.select_related("rig", "stop")
        .defer("summary")
        .order_by("stop__distance_m", "rig__letter")
    )
    context = {"visits": visits, "study": found.study}
    return render_to_string("walk/_visit_rows.html", context)


@require_POST
@login_required
def units_name(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Keep which units were used."""
    found = get_object_or_404(Walk.objects.editable_by(request.user), pk=walk_id, study=study_id)
    form = UnitsForm(found, request.POST)
    if form.is_valid():
        outing.name_units(found, form.carried(), form.cleaned_data["fixed"])
    else:
        messages.error(request, "Not kept: a unit chosen is not on this study's shelf.")
    return go_to(request, found)


@require_POST
@login_required
@at_most(40)
def log_upload(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Take a frame log in."""
    found = get_object_or_404(Walk.objects.loggable_by(request.user), pk=walk_id, study=study_id)
    only_logs = not Walk.objects.editable_by(request.user).filter(pk=found.pk).exists()
    form = LogForm(request.POST, request.FILES)
    if form.is_valid():
        file = form.cleaned_data["file"]
        try:
            received = recipes.take_in(found, file.name, file.chunks(1 << 20), request.user)
            if received.known:
                messages.info(
                    request,
                    f"{file.name} holds the same bytes as {received.file.name}, which is here already. Nothing was added.",
                )
            if only_logs:
                messages.success(request, f"{file.name} has arrived whole; it is being read.")
                return go_to(request, "walk:counts", study_id, walk_id)
            if received.file.state == FrameFile.ASKING:
                return go_to(request, "walk:recipe", study_id, received.file.pk)
            return go_to(request, found)
        except receive.RefusedError as wrong:
            form.add_error("file", str(wrong))
    if only_logs:
        messages.error(request, " ".join(problems_of(form)))
        return go_to(request, "walk:counts", study_id, walk_id)
    return render(request, "walk/walk.html", _context(found, form=form), status=422)


@require_POST
@login_required
@at_most(12)
def boards_walk(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Walk with simulated boards."""
    found = get_object_or_404(Walk.objects.editable_by(request.user), pk=walk_id, study=study_id)
    try:
        boards.start_boards(found, by=request.user)
    except receive.RefusedError as wrong:
        messages.error(request, str(wrong))
    return go_to(request, found)


@require_POST
@login_required
def silent_visit(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Log a visit at which nothing was heard."""
    found = get_object_or_404(Walk.objects.editable_by(request.user), pk=walk_id, study=study_id)
    form = SilentVisitForm(found.study, request.POST)
    if kept(form, lambda: outing.log_silent_visit(found, **form.cleaned_data)):
        return go_to(request, found)
    return render(request, "walk/walk.html", _context(found, silent=form), status=422)


@require_http_methods(["GET", "POST"])
@login_required
@at_most(30)
def bad_lines(request: HttpRequest, study_id: int, file_id: int) -> HttpResponse:
    """Show the lines of a file that could not be read; correct them and read the file again."""
    files = reachable(request, FrameFile.objects).select_related("walk__study")
    file = get_object_or_404(files, pk=file_id, walk__study=study_id)
    if request.method == "POST":
        texts = BadLinesForm(request.POST).texts()
        changed = outcome(request, lambda: receive.correct_lines(file, texts, by=request.user))
        if changed is None:
            return go_to(request, file.walk)
        if changed:
            messages.success(
                request,
                f"{changed} lines corrected; {file.name} is being read again. The file keeps the lines as they came.",
            )
        else:
            messages.info(request, "No line was changed, so nothing was read again.")
        return go_to(request, file.walk)
    page = Paginator(file.bad_lines.all(), BAD_LINES_A_PAGE).get_page(request.GET.get("page"))
    context = {
        "study": file.walk.study,
        "room": "walk",
        "file": file,
        "page": page,
        "walk": file.walk,
        "header": receive.header_of(file),
    }
    return render(request, "walk/bad_lines.html", context)


@require_POST
@login_required
@at_most(30)
def file_again(request: HttpRequest, study_id: int, file_id: int) -> HttpResponse:
    """Read a kept file again, with today's rigs and stops."""
    file = get_object_or_404(
        FrameFile.objects.editable_by(request.user), pk=file_id, walk__study=study_id
    )
    done(request, lambda: receive.read_again(file))
    return go_to(request, file.walk)


@require_GET
@login_required
def file_original(request: HttpRequest, study_id: int, file_id: int) -> HttpResponseBase:
    """Hand a file back, byte for byte as it came."""
    file = get_object_or_404(
        FrameFile.objects.visible_to(request.user), pk=file_id, walk__study=study_id
    )

    if file.let_go_at:
        return HttpResponse(f"{without_lines(file)}\n", status=410, content_type="text/plain")

    def make() -> HttpResponseBase:
        return streamed(
            request,
            receive.file_bytes(file),
            content_type="application/octet-stream",
            filename=file.name,
        )

    return unless_known(request, file.sha256, make)
