"""The second factor: time-based codes of an app, and recovery codes for when it is lost."""

from __future__ import annotations

import secrets

from django.db import transaction
from django_otp import devices_for_user, match_token, user_has_device
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from inchmark.people.models import User

RECOVERY_CODES = 8
CODE = "code generator"
WRONG = "That code is not right, or was used already. Wait for the next."


def is_on(user: User) -> bool:
    """Tell whether a person signs in with a second factor."""
    return bool(user_has_device(user, confirmed=True))


def problem_with(user: User, code: str) -> str:
    """Return why a right password does not let a person in with this code; empty if it does."""
    if not is_on(user):
        return ""
    if not code:
        return "This account has a second factor: type its code, too."
    return "" if accepts(user, code) else WRONG


def accepts(user: User, code: str) -> bool:
    """Tell whether a code of the app or a recovery code is right; a recovery code is used up."""
    return match_token(user, code.replace(" ", "")) is not None


def begin(user: User) -> TOTPDevice:
    """Return the generator that is being set up; it does nothing until a code of it was typed."""
    device, _ = TOTPDevice.objects.get_or_create(user=user, confirmed=False, name=CODE)
    return device


@transaction.atomic
def turn_on(user: User, code: str) -> list[str] | None:
    """Return recovery codes if the code is right, and ask for codes from now on; else None."""
    device = begin(user)
    if not device.verify_token(code.replace(" ", "")):
        return None
    device.confirmed = True
    device.save()
    kept, _ = StaticDevice.objects.get_or_create(user=user, name="recovery")
    kept.token_set.all().delete()
    codes = [secrets.token_hex(5) for _ in range(RECOVERY_CODES)]
    StaticToken.objects.bulk_create(StaticToken(device=kept, token=one) for one in codes)
    return codes


@transaction.atomic
def turn_off(user: User) -> None:
    """Sign in with the password alone again."""
    for device in list(devices_for_user(user, confirmed=None)):
        device.delete()


def recovery_left(user: User) -> int:
    """Return how many recovery codes are left."""
    return int(StaticToken.objects.filter(device__user=user).count())
