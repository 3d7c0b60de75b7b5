"""Figures as who is signed in wants them."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponseBase

from inchmark.pages.personal import Personal, shown_to


def figures_as_wanted(
    get_response: Callable[[HttpRequest], HttpResponseBase],
) -> Callable[[HttpRequest], HttpResponseBase]:
    """Show distances, moments and dates the way of who asks."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        user = request.user
        if not user.is_authenticated:
            return get_response(request)
        with shown_to(Personal(feet=user.feet, zone=user.zone, dates=user.dates)):
            return get_response(request)

    return answer
