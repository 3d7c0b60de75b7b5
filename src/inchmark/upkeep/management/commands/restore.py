"""Restore a backup into an empty database, and bring it to today's tables."""

from pathlib import Path

from django.core.management import call_command

from inchmark.upkeep.management.file_command import FileCommand
from inchmark.upkeep.services.backup import restore_backup


class Command(FileCommand):
    """`manage.py restore FILE`."""

    help = __doc__ or ""

    def work(self, file: Path) -> str:
        """Restore, compare, migrate."""
        manifest = restore_backup(file)
        call_command("migrate", verbosity=0)
        rows = manifest["rows"]
        return (
            f"Restored {len(rows)} tables with {sum(rows.values())} rows of {manifest['made_at']}; "
            "every table has the rows it had."
        )
