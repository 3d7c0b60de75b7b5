"""The report: as a page, as PDF made in the background, as Markdown and CSV."""

from __future__ import annotations

import csv
import io

from django.contrib.auth.decorators import login_required
from django.http import Http404, HttpRequest, HttpResponse
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from inchmark.decide.figures.report.document import Report as Document
from inchmark.decide.figures.report.document import csv_rows, markdown
from inchmark.decide.models import Report
from inchmark.decide.services import report as services
from inchmark.formats.frame_log.writer import harmless
from inchmark.pages.keeping import done
from inchmark.pages.parts import go_to, page_or_part
from inchmark.people.services.rates import at_most
from inchmark.studies.access import study_for
from inchmark.studies.models import Study


@require_GET
@login_required
@at_most(240)
def report(request: HttpRequest, study_id: int) -> HttpResponse:
    """Show the report as a page that prints, and how far the PDF is."""
    study = study_for(request, study_id)
    kept = Report.objects.filter(study=study).defer("pdf").first()
    busy = bool(kept and kept.state in (Report.WAITING, Report.RUNNING))
    found = services.gathered(study) if not busy or not request.htmx else None  # type: ignore[attr-defined]
    ready = bool(kept and kept.state == Report.DONE)
    context = {
        "study": study,
        "room": "decide",
        "page": "report",
        "kept": kept,
        "busy": busy,
        "ready": ready,
        "old": bool(ready and kept and kept.revision < study.revision),
        **(found or {"report": None}),
    }
    return page_or_part(request, "decide/report.html", "decide/_report_state.html", context)


@require_POST
@login_required
@at_most(12)
def report_make(request: HttpRequest, study_id: int) -> HttpResponse:
    """Queue the report as PDF."""
    study = study_for(request, study_id)
    done(request, lambda: services.queue_report(study))
    return go_to(request, "decide:report", study_id)


@require_GET
@login_required
@at_most(60)
def report_pdf(request: HttpRequest, study_id: int) -> HttpResponse:
    """Hand out the report as PDF."""
    study = study_for(request, study_id)
    kept = Report.objects.filter(study=study, state=Report.DONE).first()
    if kept is None or kept.pdf is None:
        raise Http404("No PDF has been set yet.")
    return _file(study, bytes(kept.pdf), "application/pdf", "pdf")


@require_GET
@login_required
@at_most(60)
def report_md(request: HttpRequest, study_id: int) -> HttpResponse:
    """Hand out the report as Markdown."""
    study = study_for(request, study_id)
    return _file(study, markdown(_found(study)).encode(), "text/markdown; charset=utf-8", "md")


@require_GET
@login_required
@at_most(60)
def report_csv(request: HttpRequest, study_id: int) -> HttpResponse:
    """Hand out the tables of the report as CSV."""
    study = study_for(request, study_id)
    out = io.StringIO()
    rows = csv_rows(_found(study))
    csv.writer(out).writerows([[harmless(cell) for cell in row] for row in rows])
    return _file(study, out.getvalue().encode(), "text/csv; charset=utf-8", "csv")


def _found(study: Study) -> Document:
    found = services.gathered(study)
    if found is None:
        raise Http404("Nothing has been read yet that a report could hold.")
    whole: Document = found["report"]
    return whole


def _file(study: Study, data: bytes, kind: str, ending: str) -> HttpResponse:
    name = slugify(study.title) or "study"
    response = HttpResponse(data, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}-report.{ending}"'
    return response
