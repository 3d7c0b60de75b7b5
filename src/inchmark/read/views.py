"""Reading: the answer, charts, the table by stop and rig, and every figure down to its frames."""

import json

from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from inchmark.formats.frame_log.writer import csv_lines
from inchmark.pages.parts import page_or_part, streamed
from inchmark.read import records
from inchmark.studies.models import Study
from inchmark.walk.models import Visit
from inchmark.walk.records import counts_of

FRAMES_A_PAGE = 100
VISIT_COLUMNS = (
    "rig",
    "stop",
    "distance_m",
    "condition",
    "sent",
    "heard",
    "loss",
    "loss_low",
    "loss_high",
    "rssi_of_heard_dbm",
    "level_dbm",
    "level_low_dbm",
    "level_high_dbm",
    "noise_dbm",
    "in_hand_db",
)


@require_GET
@login_required
def reading(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show what the log says."""
    study = get_object_or_404(Study.objects.visible_to(request.user), pk=study_id)
    latest = records.latest_reading(study)
    stale = latest is None or latest.revision < study.revision
    stop, rig = request.GET.get("stop", ""), request.GET.get("rig", "")
    walked = latest is not None and bool(latest.data.get("rigs"))
    context = {
        "study": study,
        "room": "read",
        "reading": latest,
        "walked": walked,
        "stale": stale,
        "pending": stale and Visit.objects.filter(walk__study=study).exists(),
        "answer": records.answer(study, latest),
        "notes": [],
        "stop": stop,
        "rig": rig,
    }
    if latest is not None:
        keys = records.visit_keys(latest)
        context["notes"] = records.notes(study, latest, keys)
    if walked:
        context["stops"] = records.table(study, latest, keys, stop=stop, rig=rig)
        context["chart"] = records.chart_data(study, latest, keys)
    return page_or_part(request, "read/reading.html", "read/_reading.html", context)


@require_GET
@login_required
def visit(request: HttpRequest, study_id: int, visit_id: int) -> HttpResponse:
    """Show one visit's frames, each with the file and line it came from."""
    visits = Visit.objects.visible_to(request.user).select_related("rig", "stop", "walk__study")
    found = get_object_or_404(visits, pk=visit_id, walk__study=study_id)
    latest = records.latest_reading(found.walk.study)
    figures = records.figures_of(found, latest)
    frames = found.frames.select_related("file").order_by("file_id", "line_number")
    page = Paginator(frames, FRAMES_A_PAGE).get_page(request.GET.get("page"))
    context = {
        "study": found.walk.study,
        "room": "read",
        "visit": found,
        "figures": figures,
        "strip": records.strip_of(found.summary.get("strip", [])),
        "page": page,
        "rows": records.frame_rows(list(page.object_list)),
        "counts": counts_of(found),
    }
    return render(request, "read/visit.html", context)


@require_GET
@login_required
def export_frames(request: HttpRequest, study_id: int) -> StreamingHttpResponse:
    """Hand all frames back in the columns they can be read from."""
    study = get_object_or_404(Study.objects.visible_to(request.user), pk=study_id)
    blocks = records.exported_frames(study)
    return streamed(
        request,
        blocks,
        content_type="text/csv; charset=utf-8",
        filename=f"study-{study.pk}-frames.csv",
    )


@require_GET
@login_required
def export_stops(request: HttpRequest, study_id: int) -> HttpResponse:
    """Hand the stops back."""
    study = get_object_or_404(Study.objects.visible_to(request.user), pk=study_id)
    columns = ("stop", "distance_m", "lat", "lon", "height_m", "name", "method", "plus_minus_m")
    rows = (
        {name: getattr(stop, "label" if name == "stop" else name) for name in columns}
        for stop in study.stops.all()
    )
    return _csv(csv_lines(rows, columns), f"study-{study.pk}-stops.csv")


@require_GET
@login_required
def export_visits(request: HttpRequest, study_id: int) -> HttpResponse:
    """Hand out the figures behind the charts."""
    study = get_object_or_404(Study.objects.visible_to(request.user), pk=study_id)
    latest = records.latest_reading(study)
    if latest is None:
        raise Http404
    return _csv(
        csv_lines(records.visit_table_rows(latest), VISIT_COLUMNS), f"study-{study.pk}-visits.csv"
    )


@require_GET
@login_required
def export_reading(request: HttpRequest, study_id: int) -> HttpResponse:
    """Hand out the reading as JSON, with what it rests on."""
    study = get_object_or_404(Study.objects.visible_to(request.user), pk=study_id)
    latest = records.latest_reading(study)
    if latest is None:
        raise Http404
    data = {name: value for name, value in latest.data.items() if name != "curves"} | {
        "notes": latest.notes,
        "made_at": latest.made_at.isoformat(),
        "model_version": latest.model_version,
        "code_version": latest.code_version,
    }
    response = HttpResponse(json.dumps(data, indent=1), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="study-{study.pk}-reading.json"'
    return response


def _csv(lines: object, filename: str) -> HttpResponse:
    response = HttpResponse("".join(lines), content_type="text/csv; charset=utf-8")  # type: ignore[arg-type]
    response["Content-Disposition"] = f'attachment; filename="{filename}"'
    return response
