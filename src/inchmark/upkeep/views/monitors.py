"""Health and figures for monitors: on loopback, or with the token of INCHMARK_MONITOR_TOKEN."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from functools import wraps
from ipaddress import ip_address

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_GET

from inchmark.pages.middleware import peer_address
from inchmark.upkeep.services import health
from inchmark.upkeep.services.metrics import exposition

View = Callable[[HttpRequest], HttpResponse]


def for_monitors(view: View) -> View:
    """Let the machine itself in, and who shows the token; to others there is nothing here."""

    @wraps(view)
    def answer(request: HttpRequest) -> HttpResponse:
        shown = request.headers.get("Authorization", "").removeprefix("Bearer ").strip()
        token = settings.MONITOR_TOKEN
        known = bool(token) and secrets.compare_digest(shown.encode(), token.encode())
        if not known and not _is_here(peer_address(request)):
            raise Http404
        return view(request)

    return answer


def _is_here(address: str) -> bool:
    try:
        return ip_address(address).is_loopback
    except ValueError:
        return False


@require_GET
def live(request: HttpRequest) -> HttpResponse:
    """Tell that this process answers; nothing else is asked."""
    return HttpResponse("live\n", content_type="text/plain")


@require_GET
@for_monitors
def ready(request: HttpRequest) -> HttpResponse:
    """Tell whether pages can be served: the database, the queues, the disk."""
    found = health.look()
    return JsonResponse(found.as_json(), status=200 if found.ready else 503)


@require_GET
@for_monitors
def metrics(request: HttpRequest) -> HttpResponse:
    """Hand out the figures in the text format of Prometheus."""
    text, kind = exposition()
    return HttpResponse(text, content_type=kind)
