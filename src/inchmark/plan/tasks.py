"""Background jobs of planning."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from procrastinate.contrib.django import app

from inchmark.plan import models
from inchmark.plan.services import design, maps

OUR_FAULT = "The map stopped by a fault of ours. Draw it again, and tell us if it stops again."


@app.task(queue="plan")
def work_out_power(*, design_id: int) -> None:
    """Work out a plan's power."""
    with _failing(models.Design, design_id, power_state=models.Design.FAILED):
        design.work_out_power(design_id)


@app.task(queue="plan")
def draw_map(*, map_id: int) -> None:
    """Draw the map of a rig."""
    with _failing(models.SiteMap, map_id, state=models.Design.FAILED, problem=OUR_FAULT):
        maps.draw_map(map_id)


@contextmanager
def _failing(model: type[models.Design | models.SiteMap], pk: int, **said: str) -> Iterator[None]:
    """Say at the row that its job stopped by a fault of ours."""
    try:
        yield
    except Exception:
        model.objects.filter(pk=pk).update(**said)
        raise
