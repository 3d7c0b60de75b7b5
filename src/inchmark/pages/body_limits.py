"""Bodies are refused by their length before a byte of them is kept.

Django keeps a whole body on disk before any view sees it; here a body over what its address takes
is answered at once.
"""

from __future__ import annotations

from collections.abc import Awaitable, Callable
from http import HTTPStatus
from typing import Any

from django.conf import settings
from django.urls import Resolver404, resolve

Scope = dict[str, Any]
Receive = Callable[[], Awaitable[dict[str, Any]]]
Send = Callable[[dict[str, Any]], Awaitable[None]]
Application = Callable[[Scope, Receive, Send], Awaitable[None]]


class BodyLimits:
    """An ASGI application behind the limits of `settings.BODY_LIMITS_MB`, by the view's name."""

    def __init__(self, application: Application) -> None:
        self.application = application

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer a body that is too long or of no length; hand on every other request."""
        refused = _refusal(scope) if scope["type"] == "http" else None
        if refused is None:
            await self.application(scope, receive, send)
            return
        status, words = refused
        body = words.encode()
        headers = [
            (b"content-type", b"text/plain; charset=utf-8"),
            (b"content-length", str(len(body)).encode()),
            (b"connection", b"close"),
        ]
        await send({"type": "http.response.start", "status": status, "headers": headers})
        await send({"type": "http.response.body", "body": body})


def _refusal(scope: Scope) -> tuple[int, str] | None:
    headers = dict(scope["headers"])
    if b"transfer-encoding" in headers and b"content-length" not in headers:
        return HTTPStatus.LENGTH_REQUIRED, "Send the length of the body (Content-Length)."
    length = headers.get(b"content-length", b"0")
    if not length.isdigit():
        return HTTPStatus.BAD_REQUEST, "Content-Length is no number."
    if int(length) <= settings.BODY_LIMIT_MB * 2**20:
        return None
    limit = limit_mb(scope["path"])
    if int(length) <= limit * 2**20:
        return None
    words = f"This is over {limit} MB, more than this address takes. Nothing of it was kept."
    return HTTPStatus.REQUEST_ENTITY_TOO_LARGE, f"{words} Split it, and send the parts."


def limit_mb(path: str) -> int:
    """Return how many megabytes a body to an address may have."""
    try:
        name = resolve(path).view_name
    except Resolver404:
        name = ""
    return int(settings.BODY_LIMITS_MB.get(name, settings.BODY_LIMIT_MB))
