"""Centring, close range and current: three bench checks of a rig."""

from typing import Any

from django import forms
from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from inchmark.pages.keeping import done, kept, posted, posted_files
from inchmark.pages.parts import go_to, streamed
from inchmark.people.services.rates import at_most
from inchmark.shelf import services
from inchmark.shelf.adapters.bench import own_step
from inchmark.shelf.adapters.traces import reading_of
from inchmark.shelf.adapters.walked import walked_rigs
from inchmark.shelf.drawings.centring import centring_drawing
from inchmark.shelf.drawings.traces import edge_lines, outline_of, trace_frame
from inchmark.shelf.figures.centring import centring_result
from inchmark.shelf.figures.close_range import close_range_results
from inchmark.shelf.figures.traces import trace_figures
from inchmark.shelf.forms.bench import (
    AnswerForm,
    CentringForm,
    CloseRangeForm,
    FollowForm,
    LevelsForm,
    TraceForm,
)
from inchmark.shelf.models import Centring, CloseRange, ConductedCheck, CurrentTrace
from inchmark.studies.access import study_for
from inchmark.studies.models import Study
from inchmark.studies.removing import removing

CHECKS: dict[str, Any] = {
    "centrings": Centring,
    "close-ranges": CloseRange,
    "ladders": ConductedCheck,
    "traces": CurrentTrace,
}


def _form(request: HttpRequest, study: Study, kind: type[Any]) -> Any:
    """Return the form of a check made today, filled in as posted."""
    blank = kind._meta.model(checked_on=timezone.localdate())
    return kind(posted(request), study=study, instance=blank)


def _show(
    request: HttpRequest, study: Study, page: str, form: forms.ModelForm, context: dict[str, Any]
) -> HttpResponse:
    context |= {
        "study": study,
        "room": "shelf",
        "page": page,
        "form": form,
        "serials": study.units.all(),
    }
    template = f"shelf/{page.replace('-', '_')}.html"
    return render(request, template, context, status=422 if form.is_bound else 200)


@require_http_methods(["GET", "POST"])
@login_required
def centrings(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the centrings, and keep a new one."""
    study = study_for(request, study_id)
    form = _form(request, study, CentringForm)
    if kept(form, lambda: services.bench.keep_centring(study, form.instance)):
        return go_to(request, "shelf:centrings", study.pk)
    found = study.centrings.select_related("rig").order_by("-checked_on", "-pk")
    failing = walked_rigs(study).failing
    checks = [
        (check, result, centring_drawing(result.steps, result.found, own_steps=own_step(check)))
        for check, result in (
            (check, centring_result(check, failing.get(check.rig.letter, ()))) for check in found
        )
    ]
    return _show(request, study, "centrings", form, {"checks": checks})


@require_POST
@login_required
def centring_follow(request: HttpRequest, study_id: int, check_id: int) -> HttpResponse:
    """Keep that something was done after a centring."""
    check = get_object_or_404(
        Centring.objects.editable_by(request.user), pk=check_id, study_id=study_id
    )
    form = FollowForm(request.POST)
    if form.is_valid():
        said = form.cleaned_data
        done(
            request,
            lambda: services.bench.follow_centring(
                check, said["key"], by=str(request.user), on=timezone.localdate(),
                sent=said["sent"], heard=said["heard"],
            ),
        )  # fmt: skip
    else:
        messages.error(request, "Frames are counted in whole numbers from 0 to 1,000,000.")
    return go_to(request, "shelf:centrings", study_id)


@require_http_methods(["GET", "POST"])
@login_required
def close_ranges(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the close-range checks, and keep a new one."""
    study = study_for(request, study_id)
    form = _form(request, study, CloseRangeForm)
    if kept(form, lambda: services.bench.keep_close_range(study, form.instance)):
        return go_to(request, "shelf:close-ranges", study.pk)
    found = study.close_ranges.select_related("rig__module_part", "rig__antenna_part")
    checks = close_range_results(list(found.order_by("-checked_on", "-pk")))
    return _show(request, study, "close-ranges", form, {"checks": checks})


@require_POST
@login_required
def close_range_answer(request: HttpRequest, study_id: int, check_id: int) -> HttpResponse:
    """Keep what a swap of the fault tree did."""
    found = CloseRange.objects.editable_by(request.user)
    check = get_object_or_404(found, pk=check_id, study_id=study_id)
    form = AnswerForm(request.POST)
    if form.is_valid():
        done(request, lambda: services.bench.answer_question(check, **form.cleaned_data))
    else:
        messages.error(request, " ".join(str(w) for words in form.errors.values() for w in words))
    return go_to(request, "shelf:close-ranges", study_id)


@require_POST
@login_required
def close_range_finding(request: HttpRequest, study_id: int, check_id: int) -> HttpResponse:
    """Keep what the swaps ended in on the unit."""
    found = CloseRange.objects.editable_by(request.user)
    check = get_object_or_404(found, pk=check_id, study_id=study_id)
    ((_, result),) = close_range_results([check])
    done(request, lambda: services.bench.keep_finding(check, result.verdict))
    return go_to(request, "shelf:close-ranges", study_id)


@require_http_methods(["GET", "POST"])
@login_required
@at_most(30)
def traces(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the current traces, and keep a new one."""
    study = study_for(request, study_id)
    bound = (posted(request), posted_files(request))
    blank = CurrentTrace(traced_on=timezone.localdate())
    form = TraceForm(*bound, study=study, instance=blank)

    def keep() -> None:
        file = form.cleaned_data["file"]
        services.bench.keep_trace(study, form.instance, name=file.name, data=file.read())

    if kept(form, keep):
        return go_to(request, "shelf:traces", study.pk)
    found = study.current_traces.defer("data").select_related("rig__module_part", "rig__battery")
    checks = [_trace(check) for check in found.order_by("-traced_on", "-pk")]
    return _show(request, study, "traces", form, {"checks": checks})


def _trace(check: CurrentTrace, form: LevelsForm | None = None) -> tuple[Any, ...]:
    outline, figures = outline_of(check), trace_figures(check)
    kept_ = figures.kept
    form = form or LevelsForm(names=kept_.names, edges_a=kept_.edges_a, prefix=f"t{check.pk}")
    return (
        check,
        figures,
        outline,
        trace_frame(outline.ticks),
        form,
        edge_lines(outline, kept_.edges_a),
    )


@require_POST
@login_required
@at_most(30)
def trace_levels(request: HttpRequest, study_id: int, check_id: int) -> HttpResponse:
    """Take a trace apart anew by corrected levels, or as it was found."""
    check = get_object_or_404(
        CurrentTrace.objects.editable_by(request.user), pk=check_id, study_id=study_id
    )
    if "as-found" in request.POST:
        done(request, lambda: services.bench.correct_trace(check, edges_a=(), names=()))
        return go_to(request, "shelf:traces", study_id)
    known = reading_of(check)
    form = LevelsForm(request.POST, names=known.names, edges_a=known.edges_a, prefix=f"t{check.pk}")
    if form.is_valid():
        edges, names = form.said()
        done(request, lambda: services.bench.correct_trace(check, edges_a=edges, names=names))
    else:
        words = [str(one) for all_ in form.errors.values() for one in all_]
        messages.error(request, " ".join(words))
    return go_to(request, "shelf:traces", study_id)


@require_GET
@login_required
def trace_file(request: HttpRequest, study_id: int, check_id: int) -> StreamingHttpResponse:
    """Hand a trace back as it came."""
    found = CurrentTrace.objects.visible_to(request.user)
    trace = get_object_or_404(found, pk=check_id, study_id=study_id)
    blocks = iter([bytes(trace.data)])
    return streamed(request, blocks, content_type="text/csv", filename=trace.name)


@require_POST
@login_required
def check_remove(request: HttpRequest, study_id: int, page: str, check_id: int) -> HttpResponse:
    """Take a bench check off the shelf."""
    if page not in CHECKS:
        raise Http404
    found = CHECKS[page].objects.editable_by(request.user)
    check = get_object_or_404(found, pk=check_id, study_id=study_id)
    removing(request, lambda: services.bench.remove_check(check))
    return go_to(request, f"shelf:{page}", study_id)
