"""Ending an account: what it logged stays with the studies, its name and its ways in go."""

from __future__ import annotations

from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.people.models import User
from inchmark.people.services import second_factor, sessions


def owned_alone(user: User) -> list[str]:
    """Return the titles of the studies a person is the only owner of."""
    own: Any = user
    rows = own.memberships.filter(role="owner").select_related("study")
    return [
        row.study.title
        for row in rows
        if not row.study.memberships.filter(role="owner").exclude(user=user).exists()
    ]


@transaction.atomic
def end_account(user: User, *, typed: str) -> None:
    """Take a person's name and ways in away for good.

    Raises
    ------
    ValidationError
        The name was not typed, or a study would be left without an owner.
    """
    if typed.strip() != user.username:
        raise ValidationError("Type your name as it stands here to end the account.")
    if alone := owned_alone(user):
        names = ", ".join(f"“{title}”" for title in alone)
        raise ValidationError(f"You alone own {names}. Hand over or delete these first.")
    second_factor.turn_off(user)
    user.access_tokens.all().delete()
    user.sign_in_links.all().delete()
    sessions.end_others(user, None)
    own: Any = user
    own.memberships.all().delete()
    user.username, user.email, user.is_active = f"former member {user.pk}", "", False
    user.first_name = user.last_name = ""
    user.set_unusable_password()
    user.save()
