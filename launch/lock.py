"""One instance on a data folder: a lock that ends with the process that holds it."""

from __future__ import annotations

import fcntl
import os
from pathlib import Path

from launch.say import StopError


class DataLock:
    """The lock of a data folder, with the address its holder answers at."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / "running"
        self.file: int | None = None

    def take(self, address: str) -> None:
        """Take it, or say who has it.

        Raises
        ------
        StopError
            Another instance runs on this data.
        """
        file = os.open(self.path, os.O_RDWR | os.O_CREAT, 0o600)
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            there = os.read(file, 200).decode(errors="replace").strip()
            os.close(file)
            raise StopError(
                f"Inch Mark runs on this data already, at {there}. It was left alone. "
                "Its sign-in link still works; a new one: .venv/bin/python manage.py sign_in_link demo. "
                "For a second instance set INCHMARK_VAR to another folder."
            ) from None
        os.ftruncate(file, 0)
        os.write(file, address.encode())
        self.file = file
