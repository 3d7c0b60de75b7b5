"""Whole page or part: decided here once, from htmx's headers."""

from __future__ import annotations

from collections.abc import AsyncIterator, Callable, Iterator
from typing import Any

from asgiref.sync import sync_to_async
from csp.decorators import csp_update
from django.core.handlers.asgi import ASGIRequest
from django.db import connection
from django.http import HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse
from django.shortcuts import redirect, render
from django.utils.cache import get_conditional_response, patch_vary_headers
from django.utils.http import quote_etag
from django_htmx.http import HttpResponseClientRedirect

_HEADERS = ("HX-Request", "HX-Boosted", "HX-History-Restore-Request")


def wants_part(request: HttpRequest) -> bool:
    """Tell whether a request is for a part: by htmx, and neither boosted nor a history restore."""
    htmx = request.htmx  # type: ignore[attr-defined]
    return bool(htmx and not htmx.boosted and not htmx.history_restore_request)


def page_or_part(
    request: HttpRequest, page: str, part: str, context: dict[str, Any], *, status: int = 200
) -> HttpResponse:
    """Return the part to an htmx request, the page that includes it to everything else."""
    response = render(request, part if wants_part(request) else page, context, status=status)
    patch_vary_headers(response, _HEADERS)
    return response


def allow_pictures(response: HttpResponse, origin: str) -> HttpResponse:
    """Let a page show pictures of one more origin, like https://tiles.example; none if empty."""
    if origin:
        return csp_update({"img-src": [origin]})(lambda request: response)(None)
    return response


def go_to(request: HttpRequest, target: Any, *arguments: Any, **named: Any) -> HttpResponse:
    """Send the browser on: a client redirect under htmx, 302 without."""
    there = redirect(target, *arguments, **named)
    if request.htmx:  # type: ignore[attr-defined]
        return HttpResponseClientRedirect(there.url)
    return there


def unless_known(
    request: HttpRequest, stamp: str, make: Callable[[], HttpResponseBase]
) -> HttpResponseBase:
    """Return what `make` gives, or 304 if the browser holds what carries the same stamp."""
    etag = quote_etag(stamp)
    response = get_conditional_response(request, etag=etag) or make()
    response["ETag"] = etag
    # kept by the browser that asked, and asked for again each time: members can be removed
    response["Cache-Control"] = "private, no-cache"
    return response


def streamed(
    request: HttpRequest, blocks: Iterator[bytes], *, content_type: str, filename: str
) -> StreamingHttpResponse:
    """Return a download that is never whole in memory, under ASGI and WSGI alike.

    While a slow reader takes a block, no connection to the database is held.
    """
    pieces = _letting_go(blocks)
    body = _pulled(pieces) if isinstance(request, ASGIRequest) else pieces
    response = StreamingHttpResponse(body, content_type=content_type)
    safe = "".join(c if c.isalnum() or c in "-_." else "_" for c in filename)
    response["Content-Disposition"] = f'attachment; filename="{safe}"'
    return response


def _letting_go(blocks: Iterator[bytes]) -> Iterator[bytes]:
    """Yield blocks, each after handing the connection it was read through back to the pool."""
    for block in blocks:
        let_go()
        yield block


def let_go() -> None:
    """Hand the connection to the database back before waiting for something slow."""
    if not connection.in_atomic_block:
        connection.close()


async def _pulled(blocks: Iterator[bytes]) -> AsyncIterator[bytes]:
    """Yield a synchronous iterator's blocks one at a time, in the request's thread."""
    pull = sync_to_async(lambda: next(blocks, None))
    while (block := await pull()) is not None:
        yield block
