"""Print a new access token with which a bridge may send frames as a user."""

from argparse import ArgumentParser
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from inchmark.people import services
from inchmark.people.models import User


class Command(BaseCommand):
    """`manage.py access_token USER NAME`."""

    help = __doc__ or ""

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Take the user and what the token is for."""
        parser.add_argument("username")
        parser.add_argument("name")

    def handle(self, *args: Any, **options: Any) -> None:
        """Print the secret; it is not kept."""
        user = User.objects.filter(username=options["username"]).first()
        if user is None:
            raise CommandError(f"There is no user {options['username']}.")
        self.stdout.write(services.make_access_token(user, options["name"]))
