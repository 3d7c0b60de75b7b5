"""What is shown when an address leads nowhere, or when we failed.

These pages are rendered after the view, in a thread of their own: they touch no database and know
nobody, or each of them would hold a connection for good.
"""

from __future__ import annotations

import sys

import psycopg
from django.db import DatabaseError
from django.http import HttpRequest, HttpResponse
from django.template.loader import render_to_string
from psycopg import errors as pg
from psycopg_pool import PoolTimeout

RETRY_S = 5
_SAID = (
    (
        pg.DiskFull,
        "The disk is full",
        "What was confirmed is kept. Make room on the server's disk; then send this again.",
    ),
    (
        pg.QueryCanceled,
        "This took too long and was ended",
        "Nothing was changed. Ask for less at once, or try again when less is going on.",
    ),
    (
        pg.LockNotAvailable,
        "Someone else is changing the same thing",
        "Nothing was changed. Try again in a few seconds.",
    ),
    (
        pg.DeadlockDetected,
        "Someone else is changing the same thing",
        "Nothing was changed. Try again in a few seconds.",
    ),
    (
        pg.ReadOnlySqlTransaction,
        "The database takes no changes now",
        "Nothing was changed. Pages can be read; try again later.",
    ),
)
_AWAY = (
    "The database does not answer",
    "It is being started again. What was confirmed is kept; try again in a few seconds.",
)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Return the 404 page; it says the same for what is missing and what belongs to others."""
    return HttpResponse(render_to_string("pages/not_found.html"), status=404)


def failed(request: HttpRequest) -> HttpResponse:
    """Return the 500 page, or why the database could not do it."""
    words = database_words(sys.exc_info()[1])
    if words is None:
        return HttpResponse(render_to_string("pages/failed.html"), status=500)
    title, text = words
    page = render_to_string("pages/busy.html", {"title": title, "text": text})
    response = HttpResponse(page, status=503)
    response["Retry-After"] = str(RETRY_S)
    return response


def database_words(wrong: BaseException | None) -> tuple[str, str] | None:
    """Return a title and a sentence for what a database cannot do now; None for faults of ours."""
    seen = 0
    while wrong is not None and seen < 8:
        for kind, title, text in _SAID:
            if isinstance(wrong, kind):
                return title, text
        if isinstance(wrong, PoolTimeout) or _is_away(wrong):
            return _AWAY
        wrong, seen = wrong.__cause__, seen + 1
    return None


def _is_away(wrong: BaseException) -> bool:
    """Tell whether the server is gone: no state at all, or one of class 08, 53 or 57."""
    if isinstance(wrong, DatabaseError) or not isinstance(
        wrong, psycopg.OperationalError | psycopg.InterfaceError
    ):
        return False
    state = wrong.sqlstate or "08"
    return state[:2] in ("08", "57", "53")
