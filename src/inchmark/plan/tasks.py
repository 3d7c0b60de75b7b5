"""Background jobs of planning."""

from __future__ import annotations

from procrastinate.contrib.django import app

from inchmark.plan import models
from inchmark.plan.services import design


@app.task(queue="plan")
def reckon_power(*, design_id: int) -> None:
    """Reckon a plan's power."""
    try:
        design.reckon_power(design_id)
    except Exception:
        failed = models.Design.FAILED
        models.Design.objects.filter(pk=design_id).update(power_state=failed)
        raise
