"""Background jobs of planning."""

from __future__ import annotations

from procrastinate.contrib.django import app

from inchmark.plan import models
from inchmark.plan.services import design, maps

OUR_FAULT = "The map stopped by a fault of ours. Draw it again, and tell us if it stops again."


@app.task(queue="plan")
def work_out_power(*, design_id: int) -> None:
    """Work out a plan's power."""
    try:
        design.work_out_power(design_id)
    except Exception:
        failed = models.Design.FAILED
        models.Design.objects.filter(pk=design_id).update(power_state=failed)
        raise


@app.task(queue="plan")
def draw_map(*, map_id: int) -> None:
    """Draw the map of a rig."""
    try:
        maps.draw_map(map_id)
    except Exception:
        failed = models.Design.FAILED
        models.SiteMap.objects.filter(pk=map_id).update(state=failed, problem=OUR_FAULT)
        raise
