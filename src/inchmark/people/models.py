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

    def __str__(self) -> str:
        return self.name
