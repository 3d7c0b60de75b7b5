"""Log lines that belong together: the number of a request goes with it, into the worker too."""

from __future__ import annotations

import json
import logging
import re
import secrets
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from datetime import UTC, datetime

from django.http import HttpRequest, HttpResponseBase

HEADER = "X-Request-ID"
_GIVEN = re.compile(r"[\w.-]{1,64}")
_current: ContextVar[str] = ContextVar("request_id", default="")


def request_id() -> str:
    """Return the number of the request, or of the job's, that is being worked on; else empty."""
    return _current.get()


@contextmanager
def working_for(number: str) -> Iterator[None]:
    """Let log lines carry the number of the request that asked for this."""
    before = _current.set(number)
    try:
        yield
    finally:
        _current.reset(before)


def number_requests(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Give every request a number: the proxy's, or one of ours; it is answered in the header."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        given = request.headers.get(HEADER, "")
        number = given if _GIVEN.fullmatch(given) else secrets.token_hex(8)
        with working_for(number):
            response = get_response(request)
        response[HEADER] = number
        return response

    return answer


class Numbered(logging.Filter):
    """Puts the request's number on every record."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Let every record pass."""
        record.request_id = request_id() or "-"
        return True


class JsonLines(logging.Formatter):
    """One JSON object a line."""

    def format(self, record: logging.LogRecord) -> str:
        """Return the record as JSON; a trace stays inside its line."""
        found = {
            "at": datetime.fromtimestamp(record.created, UTC).isoformat(),
            "level": record.levelname,
            "logger": record.name,
            "request": getattr(record, "request_id", "-"),
            "message": record.getMessage(),
        }
        if record.exc_info:
            found["trace"] = self.formatException(record.exc_info)
        return json.dumps(found, ensure_ascii=False)
