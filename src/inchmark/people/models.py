"""Accounts, one-time sign-in links, and access tokens for programs."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class User(AbstractUser):
    """Someone who signs in."""


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
