"""A log that grows: lines of a source appended as they come, each once, and read on where it stopped."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import date, datetime
from typing import Any

from django.conf import settings
from django.db import transaction

from inchmark.core.recipe.clock import zone_of
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.recipe_file import recipe_to_json
from inchmark.walk.adapters.logs import Said
from inchmark.walk.models import FileChunk, FrameFile, ImportProgress, Walk
from inchmark.walk.services.known_recipes import proposal_for
from inchmark.walk.services.news import LINES, tell
from inchmark.walk.services.receive import RefusedError, pack_times, queue_import
from inchmark.walk.services.recipes import needs_recipe, zone_text
from inchmark.walk.services.retention import without_lines

ENOUGH_LINES = 12  # before a recipe is proposed of them
SAID = ("rig", "stop", "receiver", "direction", "condition")


class GapError(Exception):
    """Lines are missing before those sent; `wanted` is the number to send from."""

    def __init__(self, wanted: int) -> None:
        super().__init__(f"Lines before these have not come. Send from line {wanted}.")
        self.wanted = wanted


@transaction.atomic
def append_lines(
    walk: Walk,
    *,
    source: str,
    start: str,
    first: int,
    lines: Sequence[str],
    constants: Mapping[str, str],
    by: Any,
    at: datetime | None = None,
    came: Sequence[float] | None = None,
) -> FrameFile:
    """Append the lines of a source that are not here yet; the same lines again add nothing.

    Parameters
    ----------
    source, start
        What the source calls itself, and a name for the start of it that these lines are since.
    first
        The number of the first of the lines, from 1.
    at
        When that line came; lines that tell the time of day only are of that day, else of the walk's.
    came
        When each of the lines came [s since 1970]: the time of lines that tell none.

    Raises
    ------
    GapError
        Lines before these are missing.
    RefusedError
        The log is over the limit.
    """
    made_or_known, made = FrameFile.objects.get_or_create(
        walk=walk,
        source=source,
        source_start=start,
        defaults={"name": f"{source}-{start}"[:200], "kind": FrameFile.API, "by": by,
                  "said": _said(walk, constants, at), "state": FrameFile.RECEIVING},
    )  # fmt: skip
    if made:
        ImportProgress.objects.create(file=made_or_known)
    # not against frames being copied that name this log: we would wait for the whole import
    held = FrameFile.objects.select_for_update(no_key=True)
    file: FrameFile = held.get(pk=made_or_known.pk)
    if file.let_go_at:
        raise RefusedError(without_lines(file))
    if first > file.line_count + 1:
        raise GapError(file.line_count + 1)
    known = file.line_count + 1 - first
    fresh, times = lines[known:], came[known:] if came is not None else None
    if not fresh:
        return file
    data = "".join(f"{line}\n" for line in fresh).encode("utf-8", "replace")
    if file.size_bytes + len(data) > settings.UPLOAD_LIMIT_BYTES:
        raise RefusedError(
            "This log is over the limit. Start the source anew, so that a new log begins."
        )
    chunk = FileChunk.objects.create(
        file=file, number=_next_number(file), data=data, came=pack_times(times)
    )
    file.size_bytes += len(data)
    file.line_count += len(fresh)
    file.save(update_fields=["size_bytes", "line_count"])
    tell(walk.pk, LINES, file=file.pk, chunk=chunk.number)
    _read_on(file)
    return file


def _next_number(file: FrameFile) -> int:
    """Return the number of a log's next chunk, from the end of the index: a live log has thousands."""
    last: int | None = file.chunks.order_by("-number").values_list("number", flat=True).first()
    return 0 if last is None else last + 1


def _said(walk: Walk, constants: Mapping[str, str], at: datetime | None) -> dict[str, Any]:
    given = {name: constants[name][:60] for name in SAID if constants.get(name)}
    known = Said(zone=zone_text(walk.study), day=_day(walk, at))
    said = known.model_copy(update=given)
    return said.model_dump(mode="json")


def _day(walk: Walk, at: datetime | None) -> date:
    if at is None:
        return walk.walked_on
    try:
        return at.astimezone(zone_of(zone_text(walk.study))).date()
    except OverflowError:  # the first or last day that can be written
        return walk.walked_on


def _read_on(file: FrameFile) -> None:
    """Queue the reading of a log that has grown, once its lines can be told and if it counts."""
    if file.state == FrameFile.ASIDE:
        return
    if file.recipe is None and needs_recipe(file):
        if file.state != FrameFile.ASKING or file.line_count < 2 * ENOUGH_LINES:
            _propose(file)
        if file.recipe is None:
            return
    if file.state in (FrameFile.RECEIVING, FrameFile.ASKING):
        file.state = FrameFile.WAITING
        file.save(update_fields=["state"])
    queue_import(file)


def _propose(file: FrameFile) -> None:
    """Keep the proposed recipe where nothing has to be asked; else let the log wait for a person."""
    if file.line_count < ENOUGH_LINES:
        return
    try:
        proposal = proposal_for(file)
    except UnreadableFileError as wrong:
        file.state, file.problem = FrameFile.FAILED, str(wrong)[:600]
        file.save(update_fields=["state", "problem"])
        return
    if not proposal.questions and (proposal.frames or proposal.only_positions):
        file.recipe = recipe_to_json(proposal.recipe)
    else:
        file.state = FrameFile.ASKING
    file.save(update_fields=["recipe", "state"])
