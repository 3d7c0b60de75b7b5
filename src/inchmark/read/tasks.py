"""Background jobs of reading."""

from __future__ import annotations

import logging

from procrastinate.contrib.django import app

from inchmark.pages.logs import working_for
from inchmark.read.services import make_reading, record_failure

log = logging.getLogger(__name__)
OUR_FAULT = "The reading stopped by a fault of ours. Everything logged is kept."


@app.task(queue="read")
def read_study(*, study_id: int, request_id: str = "") -> None:
    """Read a study anew; what stops it is kept and shown."""
    with working_for(request_id):
        try:
            make_reading(study_id)
        except Exception as wrong:
            record_failure(study_id, f"{OUR_FAULT} ({type(wrong).__name__}: {wrong})")
            raise
        log.info("study %s is read", study_id)
