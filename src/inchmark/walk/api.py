"""The HTTP door for bridges: frames in, as JSON Lines or CSV, with an access token."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Field, NinjaAPI, Schema, Status
from ninja.errors import ValidationError
from ninja.security import HttpBearer
from pydantic import AwareDatetime

from inchmark.people.services import token_of
from inchmark.studies.audit import record
from inchmark.walk.forms.lines import LINE_END, Lines
from inchmark.walk.models import FrameFile, Walk
from inchmark.walk.services.growing import GapError, append_lines
from inchmark.walk.services.read_back import keep_read_back
from inchmark.walk.services.receive import RefusedError, receive

MOST_PARTS = 5  # of what does not fit, named in an answer


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


class LinesOut(Schema):
    """The log, and the number of the last line that has come."""

    file: int
    through: int


class ReadBackIn(Schema):
    """What a board was told, when, and what it answered."""

    source: str = Field(min_length=1, max_length=60, pattern=r"^[^\x00-\x1f]+$")
    at: AwareDatetime
    asked: str = Field(min_length=1, max_length=400)
    answered: str = Field(max_length=4000)


class ReadBackOut(Schema):
    """The kept read-back."""

    read_back: int


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


@api.exception_handler(ValidationError)
def does_not_fit(request: HttpRequest, wrong: ValidationError) -> HttpResponse:
    """Answer what does not fit the schema in a sentence, part by part."""
    parts = [f"{one['loc'][-1]}: {one['msg']}" for one in wrong.errors[:MOST_PARTS]]
    detail = f"What was sent does not fit. {'; '.join(parts)}."
    return api.create_response(request, {"detail": detail}, status=422)


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


@api.post(
    "/walks/{walk_id}/lines",
    response={200: LinesOut, 400: ProblemOut, 409: GapOut, 422: ProblemOut},
)
def add_lines(request: HttpRequest, walk_id: int, body: Lines) -> Status[Any]:
    """Append raw lines of a source; the same lines again add nothing."""
    walk, user = _walk_of(request, walk_id)
    if body.broken():
        return Status(422, {"detail": LINE_END})
    try:
        file = append_lines(walk, by=user, **body.model_dump())
    except GapError as gap:
        return Status(409, {"detail": str(gap), "wanted": gap.wanted})
    except RefusedError as wrong:
        return Status(422, {"detail": str(wrong)})
    if body.first == 1:  # one row for a source, not one for every post of it
        record(walk.study_id, user.get_username(), "api:add_lines", body.source)
    return Status(200, {"file": file.pk, "through": file.line_count})


@api.post(
    "/walks/{walk_id}/read-backs", response={200: ReadBackOut, 400: ProblemOut, 422: ProblemOut}
)
def add_read_back(request: HttpRequest, walk_id: int, body: ReadBackIn) -> Status[Any]:
    """Keep what a board answered to a line it was told; the same once more adds nothing."""
    walk, user = _walk_of(request, walk_id)
    try:
        one = keep_read_back(
            walk, source=body.source, at=body.at, asked=body.asked, answered=body.answered, by=user
        )
    except RefusedError as wrong:
        return Status(422, {"detail": str(wrong)})
    record(walk.study_id, user.get_username(), "api:add_read_back", body.source)
    return Status(200, {"read_back": one.pk})


def _walk_of(request: HttpRequest, walk_id: int) -> tuple[Walk, Any]:
    """Return the walk of an address and who sends, as far as the token reaches."""
    token = request.auth  # type: ignore[attr-defined]
    walks = Walk.objects.loggable_by(token.user)
    if token.only_study is not None:
        walks = walks.filter(study_id=token.only_study)
    if token.only_walk is not None:
        walks = walks.filter(pk=token.only_walk)
    return get_object_or_404(walks, pk=walk_id), token.user
