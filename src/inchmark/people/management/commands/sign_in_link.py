"""Print a one-time sign-in link for a user, making the account if it is new."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand
from django.urls import reverse

from inchmark.people import services


class Command(BaseCommand):
    """`manage.py sign_in_link NAME [--base URL]`."""

    help = __doc__ or ""

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Take the user's name and the address the server is reached at."""
        parser.add_argument("username")
        parser.add_argument("--base", default="http://127.0.0.1:8000")

    def handle(self, *args: Any, **options: Any) -> None:
        """Print the link."""
        secret = services.make_sign_in_link(services.make_user(options["username"]))
        self.stdout.write(
            options["base"].rstrip("/") + reverse("people:sign-in-link", args=[secret])
        )
