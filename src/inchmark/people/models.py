"""Accounts, one-time sign-in links, and access tokens for programs."""

from zoneinfo import available_timezones

from django.contrib.auth.models import AbstractUser
from django.core.exceptions import ValidationError
from django.db import models

from inchmark.pages.personal import DATES, DAY_FIRST


def known_zone(name: str) -> None:
    """Refuse a time zone nobody knows."""
    if name not in available_timezones():
        raise ValidationError(f"“{name}” is no time zone; write one like Europe/Lisbon.")


class User(AbstractUser):
    """Someone who signs in, and how figures are shown to them."""

    feet = models.BooleanField("distances in feet and miles", default=False)
    zone = models.CharField("clock of", max_length=40, default="UTC", validators=[known_zone])
    dates = models.CharField("dates like", max_length=8, choices=DATES, default=DAY_FIRST)


class SignInLink(models.Model):
    """A link that signs one person in once; only its digest is kept."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="sign_in_links")
    digest = models.CharField(max_length=64, unique=True)
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return f"link for {self.user}"


class AccessToken(models.Model):
    """What a bridge shows to send frames as its owner; only its digest is kept."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="access_tokens")
    name = models.CharField(max_length=60)
    digest = models.CharField(max_length=64, unique=True)
    created_at = models.DateTimeField(auto_now_add=True)
    last_used_at = models.DateTimeField(null=True)
    expires_at = models.DateTimeField(null=True)
    only_study = models.PositiveBigIntegerField(null=True)  # the number of the one it is good for
    only_walk = models.PositiveBigIntegerField(null=True)  # likewise

    class Meta:
        ordering = ["created_at", "pk"]

    def __str__(self) -> str:
        return self.name


class SignedIn(models.Model):
    """A session of a person, so that it can be seen and ended."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="signed_in")
    session_key = models.CharField(max_length=40, unique=True)
    at = models.DateTimeField(auto_now_add=True)
    address = models.CharField(max_length=45, blank=True)
    browser = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return f"{self.user} since {self.at:%Y-%m-%d}"


class Spent(models.Model):
    """How often a person did something in a minute."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    what = models.CharField(max_length=60)
    minute = models.DateTimeField()
    times = models.PositiveIntegerField(default=0)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["user", "what", "minute"], name="spent_once_a_minute")
        ]

    def __str__(self) -> str:
        return f"{self.what} {self.times}"
