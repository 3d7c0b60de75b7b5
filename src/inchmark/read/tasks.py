"""Background jobs of reading."""

from __future__ import annotations

from procrastinate.contrib.django import app

from inchmark.read.services import make_reading, record_failure

OUR_FAULT = "The reading stopped by a fault of ours. Everything logged is kept."


@app.task(queue="read")
def read_study(*, study_id: int) -> None:
    """Read a study anew; what stops it is kept and shown."""
    try:
        make_reading(study_id)
    except Exception as wrong:
        record_failure(study_id, f"{OUR_FAULT} ({type(wrong).__name__}: {wrong})")
        raise
