"""System checks that refuse a bad production."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.core.checks import Error, Tags, register

LOOPBACK = {"127.0.0.1", "localhost", "[::1]", "testserver"}


@register(Tags.security)
def check_exposure(**kwargs: Any) -> list[Error]:
    """Refuse hosts beyond this machine without secure cookies, and a wildcard host at all."""
    if settings.DEBUG:
        return []
    found = []
    if "*" in settings.ALLOWED_HOSTS:
        found.append(Error("INCHMARK_HOSTS is *.", hint="Name the hosts.", id="inchmark.E001"))
    if set(settings.ALLOWED_HOSTS) - LOOPBACK and not settings.SESSION_COOKIE_SECURE:
        found.append(
            Error(
                "Hosts beyond this machine are allowed, but sign-in cookies would travel without TLS.",
                hint="Put a TLS proxy in front and set INCHMARK_ORIGINS=https://your.host.",
                id="inchmark.E002",
            )
        )
    if len(settings.SECRET_KEY) < 40:
        found.append(
            Error(
                "The secret key is too short.",
                hint="Delete it; ./start makes one.",
                id="inchmark.E003",
            )
        )
    return found
