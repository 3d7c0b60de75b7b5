"""How often a person may ask for what costs much: so many times a minute, over all processes."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from functools import wraps
from typing import Any

from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from inchmark.people.models import Spent

KEPT = timedelta(hours=1)
_SPEND = """
    INSERT INTO people_spent (user_id, what, minute, times) VALUES (%s, %s, %s, 1)
    ON CONFLICT (user_id, what, minute) DO UPDATE SET times = people_spent.times + 1
    RETURNING times
"""


def spend(user_id: int, what: str) -> int:
    """Count that a person did something; return how often in this minute."""
    minute = timezone.now().replace(second=0, microsecond=0)
    with connection.cursor() as cursor:
        cursor.execute(_SPEND, [user_id, what, minute])
        return int(cursor.fetchone()[0])


def at_most(times: int) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Let a signed-in person post to a view so often a minute; refuse more with a sentence."""

    def limit(view: Callable[..., Any]) -> Callable[..., Any]:
        @wraps(view)
        def answer(request: HttpRequest, *args: Any, **named: Any) -> Any:
            counts = request.method == "POST" and request.user.is_authenticated
            if counts and spend(request.user.pk or 0, view.__qualname__) > times:
                words = (
                    f"That is more than {times} times a minute. Wait a minute; nothing was changed."
                )
                response = HttpResponse(words, status=429, content_type="text/plain")
                response["Retry-After"] = "60"
                return response
            return view(request, *args, **named)

        return answer

    return limit


def forget_old() -> None:
    """Delete counts of minutes long past."""
    Spent.objects.filter(minute__lt=timezone.now() - KEPT).delete()
