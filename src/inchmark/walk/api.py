"""The HTTP door for bridges: frames in, as JSON Lines or CSV, with an access token."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Field, NinjaAPI, Schema, Status
from ninja.security import HttpBearer

from inchmark.people.services import token_of
from inchmark.studies.audit import record
from inchmark.walk.models import FrameFile, Walk
from inchmark.walk.services.growing import GapError, append_lines
from inchmark.walk.services.receive import RefusedError, receive


class TokenAuth(HttpBearer):
    """`Authorization: Bearer TOKEN`, made by `manage.py access_token USER NAME`."""

    def authenticate(self, request: HttpRequest, token: str) -> Any:
        """Return the token with its owner."""
        return token_of(token)


class FileOut(Schema):
    """What became of the sent frames."""

    file: int
    state: str
    known: bool


class LinesIn(Schema):
    """Raw lines of a source, numbered from 1 since its start."""

    source: str = Field(min_length=1, max_length=60, pattern=r"^[^\x00-\x1f]+$")
    start: str = Field(min_length=1, max_length=40, pattern=r"^[\w.:+-]+$")
    first: int = Field(ge=1, le=10**12)
    lines: list[str] = Field(max_length=2000)
    constants: dict[str, str] = Field(default_factory=dict)


class LinesOut(Schema):
    """The log, and the number of the last line that has come."""

    file: int
    through: int


class GapOut(Schema):
    """Lines are missing; the number to send from."""

    detail: str
    wanted: int


class ProblemOut(Schema):
    """A sentence saying what was wrong and what to do."""

    detail: str


api = NinjaAPI(
    title="Inch Mark", version="1", auth=TokenAuth(), docs_url=None, urls_namespace="api"
)


@api.post("/walks/{walk_id}/frames", response={202: FileOut, 422: ProblemOut})
def add_frames(request: HttpRequest, walk_id: int) -> Status[Any]:
    """Take frames in; the body is a frame log."""
    walk, user = _walk_of(request, walk_id)
    try:
        received = receive(
            walk, name="bridge.jsonl", blocks=[request.body], by=user, kind=FrameFile.API
        )
    except RefusedError as wrong:
        return Status(422, {"detail": str(wrong)})
    file = received.file
    record(walk.study_id, user.get_username(), "api:add_frames", str(walk))
    return Status(202, {"file": file.pk, "state": file.state, "known": received.known})


@api.post("/walks/{walk_id}/lines", response={200: LinesOut, 409: GapOut, 422: ProblemOut})
def add_lines(request: HttpRequest, walk_id: int, body: LinesIn) -> Status[Any]:
    """Append raw lines of a source; the same lines again add nothing."""
    walk, user = _walk_of(request, walk_id)
    if any("\n" in line or "\r" in line for line in body.lines):
        return Status(422, {"detail": "A line holds a line end. Send each line as one text."})
    try:
        file = append_lines(
            walk,
            source=body.source,
            start=body.start,
            first=body.first,
            lines=body.lines,
            constants=body.constants,
            by=user,
        )
    except GapError as gap:
        return Status(409, {"detail": str(gap), "wanted": gap.wanted})
    except RefusedError as wrong:
        return Status(422, {"detail": str(wrong)})
    if body.first == 1:  # one row for a source, not one for every post of it
        record(walk.study_id, user.get_username(), "api:add_lines", body.source)
    return Status(200, {"file": file.pk, "through": file.line_count})


def _walk_of(request: HttpRequest, walk_id: int) -> tuple[Walk, Any]:
    """Return the walk of an address and who sends, as far as the token reaches."""
    token = request.auth  # type: ignore[attr-defined]
    walks = Walk.objects.loggable_by(token.user)
    if token.only_study is not None:
        walks = walks.filter(study_id=token.only_study)
    if token.only_walk is not None:
        walks = walks.filter(pk=token.only_walk)
    return get_object_or_404(walks, pk=walk_id), token.user
