"""Reading: the answer, charts, the table by stop and rig, and every figure down to its frames."""

import json
from collections.abc import Iterable
from typing import Any

from django.contrib.auth.decorators import login_required
from django.core.paginator import Paginator
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.template.loader import render_to_string
from django.utils.safestring import SafeString
from django.views.decorators.http import require_GET, require_POST

from inchmark import __version__
from inchmark.formats.frame_log.writer import csv_lines
from inchmark.formats.reading_json import reading_json
from inchmark.pages.keeping import done
from inchmark.pages.parts import go_to, page_or_part, streamed, unless_known
from inchmark.people.services.rates import at_most
from inchmark.read import figures, services
from inchmark.read.adapters import KeptReading, next_place_words
from inchmark.read.drawings.charts import ReadCharts
from inchmark.read.figures.beside import beside
from inchmark.read.figures.known import known_of
from inchmark.studies.access import study_for
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study
from inchmark.walk.adapters.visits import counts_of
from inchmark.walk.drawings.strip import strip_of
from inchmark.walk.models import FrameFile, Visit

FRAMES_A_PAGE = 100


@require_GET
@login_required
def reading(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show what the log says."""
    study = study_for(request, study_id)
    kept = services.current_reading(study)
    found = kept.reading if kept else None
    stale = kept is None or kept.stale(study)
    failure = services.failure_of(study) if stale else None
    shown = figures.Shown.of(request.GET)
    context: dict[str, Any] = {
        "study": study,
        "room": "read",
        "reading": found,
        "row": kept.row if kept else None,
        "walked": bool(found and found.rigs),
        "stale": stale,
        "failure": failure,
        "pending": failure is None and _under_way(study, found, stale=stale),
        "answer": figures.answer(found),
        "notes": figures.notes(study, found),
        "shown": shown,
        "stop": shown.stop,
    }
    if kept and found and found.rigs:
        row = kept.row.pk
        context["table"] = per_revision(
            study, "read-table", lambda: _table(study, kept, shown), row, shown
        )
        context["choices"] = figures.choices(found)
        context["known"] = known_of(found)
        context["folds"] = figures.folds(found)
        context["next_words"] = next_place_words(study, kept)
        context["taught"] = per_revision(
            study, "read-taught", lambda: services.taught(study, kept), row
        )
        context["charts"] = per_revision(study, "read-charts", lambda: _charts(study, kept), row)
    return page_or_part(request, "read/reading.html", "read/_reading.html", context)


def _under_way(study: Study, found: Any, *, stale: bool) -> bool:
    """Tell whether a reading is on its way: of what was walked, or of a first log just coming in."""
    if stale and Visit.objects.filter(walk__study=study).exists():
        return True
    coming = FrameFile.objects.filter(
        walk__study=study, state__in=(FrameFile.RECEIVING, FrameFile.WAITING)
    )
    return not (found and found.rigs) and coming.exists()


def _charts(study: Study, kept: KeptReading) -> SafeString:
    """Return the charts, drawn."""
    charts, found = ReadCharts(study, kept.reading), beside(study, kept.reading)
    context = {
        "charts": charts,
        "beside": found,
        "predicted": charts.predicted(found.rows) if found.rows else None,
        "study": study,
    }
    return render_to_string("read/_charts.html", context)


def _table(study: Study, kept: KeptReading, shown: figures.Shown) -> SafeString:
    """Return the rows of the table, drawn."""
    groups = figures.table(study, kept.reading, shown)
    strips = {
        row.figures.ref: strip_of(row.cells, row.odd_cells)
        for group in groups
        for row in group.visits
    }
    context = {"groups": groups, "strips": strips, "shown": shown, "study": study}
    return render_to_string("read/_table.html", context)


@require_POST
@login_required
@at_most(12)
def again(request: HttpRequest, study_id: int) -> HttpResponse:
    """Try a reading again that failed."""
    study = study_for(request, study_id)
    services.try_again(study)
    return go_to(request, "read:reading", study.pk)


@require_POST
@login_required
def keep_surrounding(request: HttpRequest, study_id: int) -> HttpResponse:
    """Keep what the walk teaches of its surroundings on the shelf."""
    study = study_for(request, study_id, editing=True)
    name = " ".join(request.POST.get("name", "").split())
    if done(request, lambda: services.keep_surrounding(study, name)):
        return go_to(request, "shelf:parts", study.pk, "surroundings")
    return go_to(request, "read:reading", study.pk)


@require_GET
@login_required
def visit(request: HttpRequest, study_id: int, visit_id: int) -> HttpResponse:
    """Show one visit's frames, each with the file and line it came from."""
    visits = Visit.objects.visible_to(request.user).select_related("rig", "stop", "walk__study")
    found = get_object_or_404(visits, pk=visit_id, walk__study=study_id)
    kept = services.current_reading(found.walk.study)
    frames = found.frames.select_related("file").order_by("file_id", "line_number")
    page = Paginator(frames, FRAMES_A_PAGE).get_page(request.GET.get("page"))
    context = {
        "study": found.walk.study,
        "room": "read",
        "visit": found,
        "figures": figures.figures_of(found, kept.reading if kept else None),
        "strip": strip_of(found.summary.get("strip", []), found.summary.get("strip_marks", [])),
        "page": page,
        "rows": figures.frame_rows(list(page.object_list)),
        "counts": counts_of(found),
    }
    return render(request, "read/visit.html", context)


@require_GET
@login_required
def export_frames(request: HttpRequest, study_id: int) -> HttpResponseBase:
    """Hand all frames back in the columns they can be read from."""
    study = study_for(request, study_id)

    def make() -> HttpResponseBase:
        return streamed(
            request,
            services.exported_frames(study),
            content_type="text/csv; charset=utf-8",
            filename=f"study-{study.pk}-frames.csv",
        )

    return unless_known(request, _stamp(study, "frames"), make)


@require_GET
@login_required
def export_stops(request: HttpRequest, study_id: int) -> HttpResponseBase:
    """Hand the stops back."""
    study = study_for(request, study_id)
    columns = ("stop", "distance_m", "lat", "lon", "height_m", "name", "method", "plus_minus_m")
    rows = (
        {name: getattr(stop, "label" if name == "stop" else name) for name in columns}
        for stop in study.stops.all()
    )
    return unless_known(
        request,
        _stamp(study, "stops"),
        lambda: _csv(csv_lines(rows, columns), f"study-{study.pk}-stops.csv"),
    )


@require_GET
@login_required
def export_visits(request: HttpRequest, study_id: int) -> HttpResponseBase:
    """Hand out the figures behind the charts."""
    study = study_for(request, study_id)
    kept = _kept_of(study)

    def make() -> HttpResponse:
        lines = csv_lines(figures.visit_table_rows(kept.reading), figures.VISIT_COLUMNS)
        return _csv(lines, f"study-{study.pk}-visits.csv")

    return unless_known(request, _stamp(study, f"visits-{kept.row.pk}"), make)


@require_GET
@login_required
def export_reading(request: HttpRequest, study_id: int) -> HttpResponseBase:
    """Hand out the reading as JSON, with what it rests on."""
    study = study_for(request, study_id)
    kept = _kept_of(study)
    stamp = _stamp(study, f"reading-{kept.row.pk}")
    return unless_known(request, stamp, lambda: _reading_file(study, kept))


def _stamp(study: Study, what: str) -> str:
    """Return what a file handed out depends on."""
    return f"{what}-{study.pk}-{study.revision}-{__version__}"


def _reading_file(study: Study, kept: KeptReading) -> HttpResponse:
    data = {name: value for name, value in reading_json(kept.reading).items() if name != "curves"}
    data |= {
        "made_at": kept.row.made_at.isoformat(),
        "model_version": kept.row.model_version,
        "code_version": kept.row.code_version,
    }
    response = HttpResponse(json.dumps(data, indent=1), content_type="application/json")
    response["Content-Disposition"] = f'attachment; filename="study-{study.pk}-reading.json"'
    return response


def _kept_of(study: Study) -> KeptReading:
    kept = services.current_reading(study)
    if kept is None:
        raise Http404
    return kept


def _csv(lines: Iterable[str], filename: str) -> HttpResponse:
    response = HttpResponse("".join(lines), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{filename}"'
    return response
