"""Sessions of a person: noted when they begin, listed, ended one by one or all but this."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.signals import user_logged_in
from django.contrib.sessions.models import Session
from django.dispatch import receiver
from django.http import HttpRequest
from django.utils import timezone

from inchmark.pages.middleware import peer_address
from inchmark.people.models import SignedIn, User


@receiver(user_logged_in)
def note(sender: Any, request: HttpRequest | None, user: User, **kwargs: Any) -> None:
    """Note a session that begins."""
    if request is None or not hasattr(request, "session"):
        return
    if not request.session.session_key:
        request.session.save()
    SignedIn.objects.update_or_create(
        session_key=request.session.session_key,
        defaults={
            "user": user,
            "address": peer_address(request)[:45],
            "browser": request.headers.get("User-Agent", "")[:200],
        },
    )


def keep_on(request: HttpRequest) -> None:
    """Note the session a request goes on in, after its key was changed."""
    if request.user.is_authenticated:
        note(User, request, request.user)


def sessions_of(user: User) -> list[SignedIn]:
    """Return the sessions of a person that still last, the newest first."""
    live = Session.objects.filter(expire_date__gt=timezone.now()).values("session_key")
    return list(user.signed_in.filter(session_key__in=live))


def end_session(one: SignedIn) -> None:
    """Sign a session out, wherever it is."""
    Session.objects.filter(session_key=one.session_key).delete()
    one.delete()


def forget_ended() -> None:
    """Delete sessions that have run out, and the notes of sessions that are gone."""
    Session.objects.filter(expire_date__lt=timezone.now()).delete()
    SignedIn.objects.exclude(session_key__in=Session.objects.values("session_key")).delete()


def end_others(user: User, but: str | None) -> int:
    """Sign all sessions of a person out but one; return how many."""
    others = [one for one in sessions_of(user) if one.session_key != but]
    for one in others:
        end_session(one)
    return len(others)
