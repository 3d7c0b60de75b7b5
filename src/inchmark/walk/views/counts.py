"""Counts of the run sheet, stop by stop: on the phone in the field, or typed in afterwards."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.template.defaultfilters import pluralize
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_GET, require_http_methods

from inchmark.pages.keeping import outcome
from inchmark.pages.parts import go_to
from inchmark.plan.figures.clock import visits_of
from inchmark.plan.models import Stop
from inchmark.plan.services.design import design_of
from inchmark.studies.access import reachable, study_for
from inchmark.walk.figures import CountRow, count_rows
from inchmark.walk.forms.walks import CountForm
from inchmark.walk.models import Walk
from inchmark.walk.services.counts import keep_counts


@require_GET
@login_required
def counts_latest(request: HttpRequest, study_id: int) -> HttpResponse:
    """Go to the counts of the latest walk, at the stop the address names; the run sheet's codes."""
    latest = Walk.objects.loggable_by(request.user).filter(study=study_id).last()
    if latest is None:
        study = study_for(request, study_id)
        latest = study.walks.last()
    if latest is None:
        messages.info(request, "Start the walk first; then scan the code again.")
        return go_to(request, "walk:walk-add", study_id)
    return go_to(request, _address(latest, request.GET.get("stop", "")))


def _address(walk: Walk, stop: str, condition: str = "") -> str:
    asked = {"stop": stop} | ({"carried": condition} if condition else {})
    return f"{reverse('walk:counts', args=[walk.study_id, walk.pk])}?{urlencode(asked)}"


@require_http_methods(["GET", "POST"])
@login_required
def counts(request: HttpRequest, study_id: int, walk_id: int) -> HttpResponse:
    """Show and keep the counts of one stop."""
    walk, only_logs = _walk_for(request, study_id, walk_id)
    stops = list(walk.study.stops.all())
    asked = request.GET.get("stop", "")
    stop = next((one for one in stops if one.label == asked), stops[0] if stops else None)
    if stop is None:
        if only_logs:
            return HttpResponse("There are no stops yet.", content_type="text/plain")
        messages.info(request, "Put stops on the plan first.")
        return go_to(request, walk)
    condition = request.GET.get("carried", "").strip()[:60].replace("\x00", "")
    rows = _rows(walk, stop, stops, condition)
    forms = [(row, _form(request, row, walk.frames_per_visit)) for row in rows]
    wrong_rows = sum(form.is_bound and not form.is_valid() for _, form in forms)
    if request.method == "POST" and not wrong_rows:
        typed = [(row, form.cleaned_data) for row, form in forms if form.is_bound]
        kept = outcome(
            request,
            lambda: keep_counts(walk, stop, typed, condition=condition, by=request.user),
        )
        if kept is not None:
            messages.success(request, f"{kept} count{pluralize(kept)} of stop {stop.label} kept.")
            return go_to(request, _address(walk, _next(stops, stop).label, condition))
    context = _context(walk, stops, stop, condition) | {
        "rows": forms,
        "wrong_rows": wrong_rows,
        "open": any(row.logged is None for row in rows),
        "only_logs": only_logs,
        "base": "pages/base.html" if only_logs else "studies/_study.html",
    }
    status = 422 if request.method == "POST" else 200
    return render(request, "walk/counts.html", context, status=status)


def _walk_for(request: HttpRequest, study_id: int, walk_id: int) -> tuple[Walk, bool]:
    """Return the walk, and whether who asks has a pass to it and may see no more."""
    own = reachable(request, Walk.objects).filter(pk=walk_id, study=study_id)
    found = own.select_related("study").first()
    if found is not None:
        return found, False
    passed = Walk.objects.loggable_by(request.user).select_related("study")
    return get_object_or_404(passed, pk=walk_id, study=study_id), True


def _form(request: HttpRequest, row: CountRow, usual: int | None) -> CountForm:
    """Return a visit's form; bound only if the page that was sent held it.

    Fields are named by rig and pass, so that a plan redrawn meanwhile mixes nothing up.
    """
    prefix = f"{row.rig.letter}-{row.pass_number}"
    sent = request.method == "POST" and f"{prefix}-sent" in request.POST
    return CountForm(
        request.POST if sent else None, initial=_initial(row), prefix=prefix, usual_sent=usual
    )


def _rows(walk: Walk, stop: Stop, stops: list[Stop], condition: str) -> list[CountRow]:
    design = design_of(walk.study)
    rigs = list(walk.study.rigs.all())
    # of a plan too large for an order of work, what there is at this stop
    visits = visits_of(design, rigs, stops) or visits_of(design, rigs, [stop])
    return count_rows(walk, stop, visits, condition)


def _initial(row: CountRow) -> dict[str, Any]:
    one = row.count
    if one is None or not one.sent:
        return {}
    return {"sent": one.sent, "heard": one.heard, "rssi_dbm": one.rssi_dbm, "note": one.note}


def _next(stops: list[Stop], stop: Stop) -> Stop:
    return stops[min(stops.index(stop) + 1, len(stops) - 1)]


def _context(walk: Walk, stops: list[Stop], stop: Stop, condition: str) -> dict[str, Any]:
    return {
        "study": walk.study,
        "room": "walk",
        "walk": walk,
        "stops": stops,
        "stop": stop,
        "condition": condition,
        "next": _next(stops, stop),
    }
