"""What is counted of every request: which view, which answer, how long it took."""

from __future__ import annotations

import os
import time
from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase
from prometheus_client import CollectorRegistry, Counter, Histogram

# with several processes each writes files of its own, and whoever is asked adds them up
REGISTRY = CollectorRegistry()
_WHERE = None if os.environ.get("PROMETHEUS_MULTIPROC_DIR") else REGISTRY
REQUESTS = Counter(
    "inchmark_requests", "requests answered", ["view", "method", "status"], registry=_WHERE
)
SECONDS = Histogram(
    "inchmark_request_seconds",
    "server time of a request",
    ["view"],
    buckets=(0.01, 0.02, 0.04, 0.08, 0.16, 0.4, 1, 3, 10, 30),
    registry=_WHERE,
)


def count_requests(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Count answers and their time by the view's name, never by address: those have no end."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        began = time.perf_counter()
        response = get_response(request)
        view = request.resolver_match.view_name if request.resolver_match else "none"
        REQUESTS.labels(view, request.method or "", str(response.status_code)).inc()
        SECONDS.labels(view).observe(time.perf_counter() - began)
        return response

    return answer
