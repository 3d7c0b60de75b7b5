"""Write the whole database into one file."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from inchmark.upkeep.services.backup import BackupError, write_backup


class Command(BaseCommand):
    """`manage.py backup FILE`."""

    help = __doc__ or ""

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Take the file."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Write it and say what it holds."""
        try:
            manifest = write_backup(options["file"])
        except BackupError as wrong:
            raise CommandError(str(wrong)) from None
        rows = sum(manifest["rows"].values())
        self.stdout.write(
            f"{options['file']}: {len(manifest['rows'])} tables, {rows} rows. The secret key is not "
            "in it: without it people sign in again after a restore, nothing else."
        )
