"""Verbs on passes: let someone log into one walk without seeing anything else, and end that."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.db import transaction
from django.utils import timezone

from inchmark.people.services import digest_of, make_user, new_secret
from inchmark.walk.models import FieldPass, Walk

DAYS = 14


def make_pass(walk: Walk, name: str) -> str:
    """Return the secret of a new pass, good for a fortnight."""
    secret, digest = new_secret()
    ends = timezone.now() + timedelta(days=DAYS)
    FieldPass.objects.create(walk=walk, name=name, digest=digest, expires_at=ends)
    return secret


def pass_of(secret: str) -> FieldPass | None:
    """Return the pass of a secret; None if it is unknown, ended or too old."""
    found = FieldPass.objects.select_related("walk__study", "user")
    return found.filter(digest=digest_of(secret), expires_at__gt=timezone.now()).first()


@transaction.atomic
def account_of(found: FieldPass) -> Any:
    """Return the account a pass logs as, made when it is first used; it has no password."""
    held = FieldPass.objects.select_for_update().get(pk=found.pk)
    if held.user is None:
        held.user = make_user(f"{held.name} (field {held.pk})")
        held.save(update_fields=["user"])
    return held.user


def end_pass(found: FieldPass) -> None:
    """End a pass; what was logged with it stays."""
    found.delete()
