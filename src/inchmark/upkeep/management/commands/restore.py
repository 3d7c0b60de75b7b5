"""Restore a backup into an empty database, and bring it to today's tables."""

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError

from inchmark.upkeep.services.backup import BackupError, restore_backup


class Command(BaseCommand):
    """`manage.py restore FILE`."""

    help = __doc__ or ""

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Take the file."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Restore, compare, migrate."""
        try:
            manifest = restore_backup(options["file"])
        except BackupError as wrong:
            raise CommandError(str(wrong)) from None
        call_command("migrate", verbosity=0)
        rows = sum(manifest["rows"].values())
        self.stdout.write(
            f"Restored {len(manifest['rows'])} tables with {rows} rows of {manifest['made_at']}; "
            "every table has the rows it had."
        )
