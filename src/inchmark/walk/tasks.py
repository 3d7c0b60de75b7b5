"""Background jobs of the walk; the queue lives in the database."""

from __future__ import annotations

import logging

from procrastinate.contrib.django import app

from inchmark.pages.logs import working_for
from inchmark.walk.models import FrameFile
from inchmark.walk.services.boards import receive_from_boards
from inchmark.walk.services.ingest import import_frames
from inchmark.walk.services.recipes import follow_timeline

log = logging.getLogger(__name__)
OUR_FAULT = "The reading stopped by a fault of ours. The file is kept whole: press “Read again”, and tell us if it stops again."


@app.task(queue="import")
def import_file(*, file_id: int, request_id: str = "") -> None:
    """Read one kept file into frames."""
    with working_for(request_id):
        try:
            file = import_frames(file_id)
            if file.kind == FrameFile.BOARDS:
                follow_timeline(file.walk)  # it knows how many they sent where nothing came
        except Exception:
            FrameFile.objects.filter(pk=file_id).update(state=FrameFile.FAILED, problem=OUR_FAULT)
            raise
        log.info(
            "file %s: %s, %s frames, %s bad lines",
            file_id,
            file.state,
            file.frame_count,
            file.bad_count,
        )


@app.task(queue="import")
def walk_with_boards(*, file_id: int) -> None:
    """Receive a walk from simulated boards."""
    try:
        receive_from_boards(file_id)
    except Exception:
        FrameFile.objects.filter(pk=file_id).update(state=FrameFile.FAILED, problem=OUR_FAULT)
        raise
