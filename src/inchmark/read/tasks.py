"""Background jobs of reading."""

from __future__ import annotations

from procrastinate.contrib.django import app

from inchmark.read.services import make_reading


@app.task(queue="read")
def read_study(*, study_id: int) -> None:
    """Read a study anew."""
    make_reading(study_id)
