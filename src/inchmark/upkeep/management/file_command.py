"""A command of upkeep that takes one file and says in words what is wrong with it."""

from __future__ import annotations

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from inchmark.upkeep.services.backup import BackupError


class FileCommand(BaseCommand):
    """What `manage.py backup FILE` and `manage.py restore FILE` share."""

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Take the file."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Do it, and say what came of it."""
        try:
            done = self.work(options["file"])
        except BackupError as wrong:
            raise CommandError(str(wrong)) from None
        self.stdout.write(done)

    def work(self, file: Path) -> str:
        """Do it; return what came of it in words."""
        raise NotImplementedError
