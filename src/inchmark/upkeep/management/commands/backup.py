"""Write the whole database into one file."""

from pathlib import Path

from inchmark.upkeep.management.file_command import FileCommand
from inchmark.upkeep.services.backup import write_backup


class Command(FileCommand):
    """`manage.py backup FILE`."""

    help = __doc__ or ""

    def work(self, file: Path) -> str:
        """Write it and say what it holds."""
        rows = write_backup(file)["rows"]
        return (
            f"{file}: {len(rows)} tables, {sum(rows.values())} rows. The secret key is not "
            "in it: without it people sign in again after a restore, nothing else."
        )
