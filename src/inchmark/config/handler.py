"""The handler between ASGI and views that are plain functions: one thread from first to last.

Django's own goes back to the event loop between middleware and view, which costs a page two more
changes of thread; ours are all synchronous, so nothing is gained by it. A view that streams still
streams: what it yields is sent by the event loop.
"""

from __future__ import annotations

from asgiref.sync import sync_to_async
from django.core.handlers.asgi import ASGIHandler
from django.http import HttpRequest, HttpResponseBase


class OneThreadHandler(ASGIHandler):
    """Works a request through middleware and view without leaving its thread."""

    def load_middleware(self, is_async: bool = False) -> None:  # noqa: FBT001, FBT002 - Django asks so
        """Lay the chain out for plain calls, whatever is asked."""
        super().load_middleware(is_async=False)

    async def get_response_async(self, request: HttpRequest) -> HttpResponseBase:
        """Return what the chain answers, from the request's own thread."""
        answer = sync_to_async(self.get_response, thread_sensitive=True)
        response: HttpResponseBase = await answer(request)
        return response
