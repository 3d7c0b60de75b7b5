"""Verbs on accounts: make a sign-in link, use it, make a token, know its owner."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta

from django.db import transaction
from django.db.models import Q
from django.utils import timezone

from inchmark.people.models import AccessToken, SignInLink, User

LINK_LIFE = timedelta(hours=12)


def new_secret() -> tuple[str, str]:
    """Return a secret to hand out once, and the digest that is kept of it."""
    secret = secrets.token_urlsafe(32)
    return secret, digest_of(secret)


def digest_of(secret: str) -> str:
    """Return what is kept of a secret."""
    return hashlib.sha256(secret.encode()).hexdigest()


def make_user(username: str) -> User:
    """Return the account of that name, made without a password if it is new."""
    user, made = User.objects.get_or_create(username=username)
    if made:
        user.set_unusable_password()
        user.save(update_fields=["password"])
    return user


def make_sign_in_link(user: User) -> str:
    """Return the secret of a new link; older unused links of the user stop working."""
    secret, digest = new_secret()
    with transaction.atomic():
        user.sign_in_links.filter(used_at=None).delete()
        SignInLink.objects.create(user=user, digest=digest, expires_at=timezone.now() + LINK_LIFE)
    return secret


def link_is_live(secret: str) -> bool:
    """Tell whether a link would still sign someone in."""
    return SignInLink.objects.filter(
        digest=digest_of(secret), used_at=None, expires_at__gt=timezone.now()
    ).exists()


def use_sign_in_link(secret: str) -> User | None:
    """Return the link's user and use the link up; None if it is unknown, used or too old."""
    now = timezone.now()
    used = SignInLink.objects.filter(
        digest=digest_of(secret), used_at=None, expires_at__gt=now
    ).update(used_at=now)
    if not used:
        return None
    return SignInLink.objects.select_related("user").get(digest=digest_of(secret)).user


def make_access_token(
    user: User,
    name: str,
    *,
    days: int | None = None,
    only_study: int | None = None,
    only_walk: int | None = None,
) -> str:
    """Return the secret of a new token, good for some days, one study or one walk if so asked."""
    secret, digest = new_secret()
    AccessToken.objects.create(
        user=user,
        name=name[:60],
        digest=digest,
        expires_at=timezone.now() + timedelta(days=days) if days else None,
        only_study=only_study,
        only_walk=only_walk,
    )
    return secret


def token_of(secret: str) -> AccessToken | None:
    """Return the token of a secret with its owner; None if it is unknown, revoked or too old."""
    now = timezone.now()
    token: AccessToken | None = (
        AccessToken.objects.select_related("user")
        .filter(Q(expires_at=None) | Q(expires_at__gt=now))
        .filter(digest=digest_of(secret), user__is_active=True)
        .first()
    )
    if token is not None:
        AccessToken.objects.filter(pk=token.pk).update(last_used_at=now)
    return token
