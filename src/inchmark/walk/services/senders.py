"""A sender's own log beside others of its walk: what it says went out and they did not hear is lost."""

from __future__ import annotations

from inchmark.core.gathering.source import Source
from inchmark.walk.adapters.logs import reading_of
from inchmark.walk.models import FrameFile
from inchmark.walk.services.by_recipe import lines_of_log, source_of
from inchmark.walk.services.receive import read_again


def senders_of(file: FrameFile) -> list[Source]:
    """Return the walk's other logs that tell what was sent, as far as they can be read at once."""
    found = []
    others = FrameFile.objects.filter(walk=file.walk_id, state=FrameFile.READ, sent_count__gt=0)
    for other in others.filter(let_go_at=None).exclude(pk=file.pk):
        found.append(source_of(reading_of(other), lines_of_log(other), other.name))
    return found


def read_with_sender(file: FrameFile) -> None:
    """Have the walk's other logs read anew, now that what was sent is known."""
    others = FrameFile.objects.filter(
        walk=file.walk_id, recipe__isnull=False, state=FrameFile.READ, sent_count=0, let_go_at=None
    )
    for other in others.exclude(pk=file.pk):
        read_again(other)
