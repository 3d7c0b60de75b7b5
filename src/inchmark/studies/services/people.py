"""Verbs on the people of a study: invite, join, change a role, remove, leave, hand over, end it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.core.exceptions import ValidationError
from django.db import connection, transaction
from django.utils import timezone

from inchmark.people.services import digest_of, new_secret
from inchmark.studies.models import Invitation, Membership, Study

LINK_LIFE = timedelta(days=7)
MOST_OPEN = 50  # invitations of a study that nobody has used yet
_RANK = {Membership.VIEWER: 0, Membership.EDITOR: 1, Membership.OWNER: 2}


_ends: list[Callable[[Study], None]] = []


def on_end(listener: Callable[[Study], None]) -> None:
    """Register how a room deletes what it holds of a study; rooms register in their order."""
    if listener not in _ends:
        _ends.append(listener)


def invite(study: Study, role: str, *, note: str, by: Any) -> str:
    """Return the secret of a new one-time link into a study.

    Raises
    ------
    ValidationError
        Too many links are open.
    """
    if open_invitations(study).count() >= MOST_OPEN:
        raise ValidationError(f"{MOST_OPEN} links are open. Take some back first.")
    secret, digest = new_secret()
    Invitation.objects.create(
        study=study,
        role=role,
        note=note,
        by=by,
        digest=digest,
        expires_at=timezone.now() + LINK_LIFE,
    )
    return secret


def open_invitations(study: Study) -> Any:
    """Return the links of a study that still let someone in."""
    return study.invitations.filter(used_at=None, expires_at__gt=timezone.now())


def invitation_of(secret: str) -> Invitation | None:
    """Return the open invitation of a secret, None if it is unknown, used or too old."""
    found = Invitation.objects.select_related("study", "by").filter(digest=digest_of(secret))
    return found.filter(used_at=None, expires_at__gt=timezone.now()).first()


@transaction.atomic
def join(secret: str, user: Any) -> Membership | None:
    """Use a link up and return the membership; a role one has already is raised, never lowered."""
    invitation = invitation_of(secret)
    if invitation is None:
        return None
    used = Invitation.objects.filter(pk=invitation.pk, used_at=None).update(used_at=timezone.now())
    if not used:
        return None
    member, made = Membership.objects.get_or_create(
        study=invitation.study, user=user, defaults={"role": invitation.role}
    )
    if not made and _RANK[member.role] < _RANK[invitation.role]:
        member.role = invitation.role
        member.save(update_fields=["role"])
    return member


def take_back(invitation: Invitation) -> None:
    """End a link that nobody has used."""
    Invitation.objects.filter(pk=invitation.pk, used_at=None).delete()


@transaction.atomic
def change_role(member: Membership, role: str) -> None:
    """Give a member another role.

    Raises
    ------
    ValidationError
        There is no such role, or no owner would be left.
    """
    if role not in _RANK:
        raise ValidationError(f"“{role[:40]}” is no role.")
    if role != Membership.OWNER:
        _need_another_owner(member)
    member.role = role
    member.save(update_fields=["role"])


@transaction.atomic
def remove(member: Membership) -> None:
    """Take a member out of a study, or leave it oneself.

    Raises
    ------
    ValidationError
        No owner would be left.
    """
    _need_another_owner(member)
    member.delete()


@transaction.atomic
def hand_over(member: Membership, *, by: Any) -> None:
    """Make a member the owner in one's own place; one stays as an editor."""
    member.role = Membership.OWNER
    member.save(update_fields=["role"])
    own = member.study.memberships.filter(user=by).exclude(pk=member.pk)
    own.update(role=Membership.EDITOR)


def keep_logs(study: Study, days: int | None) -> None:
    """Say how many days the lines of logs are kept; None for good."""
    study.keep_logs_days = days
    study.full_clean()
    study.save(update_fields=["keep_logs_days"])


def keeping_words(study: Study) -> str:
    """Return in a sentence how long logs are kept."""
    if study.keep_logs_days is None:
        return "The lines of logs are kept for good."
    days = "day" if study.keep_logs_days == 1 else "days"
    return f"The lines of a log go {study.keep_logs_days} {days} after its last reading."


@transaction.atomic
def end_study(study: Study, *, typed: str) -> None:
    """Delete a study with all that belongs to it.

    Raises
    ------
    ValidationError
        Its name was not typed, so it may have been pressed by mistake.
    """
    if typed.strip() != study.title:
        raise ValidationError("Type the study's name as it stands here to delete it.")
    with connection.cursor() as cursor:  # millions of frames go in a statement of minutes
        cursor.execute("SET LOCAL statement_timeout = '15min'")
    for listener in reversed(_ends):  # what was built last is taken down first
        listener(study)
    study.delete()


def what_it_holds(study: Study) -> str:
    """Return in words what goes with a study."""
    counted = [(getattr(study, name).count(), word) for name, word in _COUNTED.items()]
    return ", ".join(f"{rows} {word if rows == 1 else f'{word}s'}" for rows, word in counted)


_COUNTED = {"rigs": "rig", "stops": "stop", "walks": "walk", "readings": "reading"}


def _need_another_owner(member: Membership) -> None:
    # all rows are held, so that two owners cannot leave at once
    roles = {row.pk: row.role for row in member.study.memberships.select_for_update()}
    if roles.pop(member.pk, "") == Membership.OWNER and Membership.OWNER not in roles.values():
        raise ValidationError("A study needs an owner. Hand it over first, or delete it.")
