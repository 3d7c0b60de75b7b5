"""What a view does when a button removes something: say so, and offer to put it back."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib import messages
from django.http import HttpRequest
from django.middleware.csrf import get_token
from django.urls import reverse
from django.utils.html import format_html

from inchmark.pages.keeping import outcome
from inchmark.studies.models import Removed

UNDO = (
    '{} is removed. <form method="post" action="{}" class="d-inline">'
    '<input type="hidden" name="csrfmiddlewaretoken" value="{}">'
    '<input type="hidden" name="next" value="{}">'
    '<button type="submit" class="link">Undo</button></form>'
)


def removing(request: HttpRequest, remove: Callable[[], Removed]) -> bool:
    """Remove something and offer to undo that; what stands against it is told on the next page."""
    removed = outcome(request, remove)
    if removed is None:
        return False
    page = reverse("studies:put-back", args=[removed.study_id, removed.pk])
    back = request.headers.get("Referer", "").partition(request.get_host())[2]
    messages.success(
        request, format_html(UNDO, removed.words, page, get_token(request), back or "/")
    )
    return True
