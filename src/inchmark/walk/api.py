"""The HTTP door for bridges: frames in, as JSON Lines or CSV, with an access token."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import NinjaAPI, Schema, Status
from ninja.security import HttpBearer

from inchmark.people.services import token_of
from inchmark.studies.audit import record
from inchmark.walk.models import FrameFile, Walk
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


class ProblemOut(Schema):
    """A sentence saying what was wrong and what to do."""

    detail: str


api = NinjaAPI(
    title="Inch Mark", version="1", auth=TokenAuth(), docs_url=None, urls_namespace="api"
)


@api.post("/walks/{walk_id}/frames", response={202: FileOut, 422: ProblemOut})
def add_frames(request: HttpRequest, walk_id: int) -> Status[Any]:
    """Take frames in; the body is a frame log."""
    token = request.auth  # type: ignore[attr-defined]
    user, walks = token.user, Walk.objects.loggable_by(token.user)
    if token.only_study is not None:
        walks = walks.filter(study_id=token.only_study)
    walk = get_object_or_404(walks, pk=walk_id)
    try:
        received = receive(
            walk, name="bridge.jsonl", blocks=[request.body], by=user, kind=FrameFile.API
        )
    except RefusedError as wrong:
        return Status(422, {"detail": str(wrong)})
    file = received.file
    record(walk.study_id, user.get_username(), "api:add_frames", str(walk))
    return Status(202, {"file": file.pk, "state": file.state, "known": received.known})
