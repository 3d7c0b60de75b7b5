"""Deleting what the walk holds of a study."""

from __future__ import annotations

from inchmark.studies.models import Study
from inchmark.walk.models import Frame, FrameFile, HandCount, Visit, Walk


def delete_walks(study: Study) -> None:
    """Delete frames, visits, logs and walks of a study; frames at once, by the database."""
    frames = Frame.objects.filter(file__walk__study=study)
    frames._raw_delete(frames.db)
    for rows in (
        HandCount.objects.filter(walk__study=study),
        Visit.objects.filter(walk__study=study),
        FrameFile.objects.filter(walk__study=study),
        Walk.objects.filter(study=study),
    ):
        rows.delete()
