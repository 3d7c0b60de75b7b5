"""What pages and programs send piece by piece: checked, appended once, answered in JSON."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from django.http import HttpRequest, JsonResponse
from pydantic import BaseModel, ValidationError

from inchmark.walk.models import FrameFile
from inchmark.walk.services.growing import GapError
from inchmark.walk.services.receive import RefusedError

Sent = TypeVar("Sent", bound=BaseModel)


def sent_of(request: HttpRequest, kind: type[Sent], what: str) -> Sent | JsonResponse:
    """Return what a request's body holds, or the answer that says what does not fit."""
    try:
        return kind.model_validate_json(request.body)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "body"
        return refused(f"The {what} were not taken: {where}: {first['msg']}.")


def appended(keep: Callable[[], FrameFile]) -> JsonResponse:
    """Append, and answer with the number of the last line that has come."""
    try:
        file = keep()
    except GapError as gap:
        return JsonResponse({"detail": str(gap), "wanted": gap.wanted}, status=409)
    except RefusedError as wrong:
        return refused(str(wrong))
    return JsonResponse({"file": file.pk, "through": file.line_count})


def refused(words: str) -> JsonResponse:
    """Say why something was not taken."""
    return JsonResponse({"detail": words}, status=422)
