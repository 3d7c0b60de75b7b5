"""Background jobs of deciding."""

from __future__ import annotations

from procrastinate.contrib.django import app

from inchmark.decide.models import Report
from inchmark.decide.services import report

OUR_FAULT = "The report stopped by a fault of ours. Make it again, and tell us if it stops again."


@app.task(queue="read")
def make_report(*, study_id: int) -> None:
    """Set a study's report as PDF."""
    try:
        report.make_report(study_id)
    except Exception:
        Report.objects.filter(study_id=study_id).update(state=Report.FAILED, problem=OUR_FAULT)
        raise
