"""The whole database in one file and back: a dump and a manifest of versions and row counts."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import tempfile
import zipfile
from pathlib import Path
from typing import Any

from django.db import connection, transaction
from django.db.migrations.recorder import MigrationRecorder
from django.utils import timezone

from inchmark import __version__

DUMP, MANIFEST, FORMAT = "database.dump", "manifest.json", 1
_TABLES = "SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY tablename"


class BackupError(Exception):
    """A backup was not made or not restored; the message says why and what to do."""


def write_backup(path: Path) -> dict[str, Any]:
    """Write a backup and return its manifest; counts and dump are of one moment.

    Raises
    ------
    BackupError
        The file exists, the disk is full, or the dump failed.
    """
    if path.exists():
        raise BackupError(f"{path} exists. Name another file; a backup is never written over.")
    part = path.with_name(f"{path.name}.part")
    try:
        with tempfile.TemporaryDirectory(dir=path.parent) as folder:
            dump = Path(folder) / DUMP
            manifest = _dump(dump)
            with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED, allowZip64=True) as whole:
                whole.writestr(MANIFEST, json.dumps(manifest, indent=1))
                whole.write(dump, DUMP)
        part.chmod(0o600)
        part.rename(path)
    except OSError as wrong:
        raise BackupError(f"{path} cannot be written: {wrong.strerror}.") from wrong
    finally:
        part.unlink(missing_ok=True)
    return manifest


def _dump(path: Path) -> dict[str, Any]:
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY")
        cursor.execute("SELECT pg_export_snapshot()")
        snapshot = cursor.fetchone()[0]
        manifest = {
            "format": FORMAT,
            "made_at": timezone.now().isoformat(),
            "inchmark": __version__,
            "postgresql": connection.pg_version,  # type: ignore[attr-defined]
            "migrations": sorted(
                ".".join(one) for one in MigrationRecorder(connection).applied_migrations()
            ),
            "rows": table_counts(),
        }
        _run("pg_dump", "--format=custom", f"--snapshot={snapshot}", "--no-owner", f"--file={path}")
    return manifest


def read_manifest(path: Path) -> dict[str, Any]:
    """Return the manifest of a backup.

    Raises
    ------
    BackupError
        The file is no backup.
    """
    try:
        with zipfile.ZipFile(path) as whole:
            found: dict[str, Any] = json.loads(whole.read(MANIFEST))
    except (OSError, KeyError, ValueError, zipfile.BadZipFile) as wrong:
        raise BackupError(f"{path} is no backup of Inch Mark ({wrong}).") from wrong
    if found.get("format") != FORMAT:
        raise BackupError(f"{path} was written by a newer Inch Mark ({found.get('inchmark')}).")
    return found


def restore_backup(path: Path) -> dict[str, Any]:
    """Restore a backup into an empty database and compare every table; return its manifest.

    Raises
    ------
    BackupError
        The file is no backup, the database is not empty, or what came back is not what went in.
    """
    manifest = read_manifest(path)
    if table_counts():
        raise BackupError(
            "This database has tables already. Make an empty one (createdb), name it in "
            "INCHMARK_DATABASE_URL, and restore into that."
        )
    with tempfile.TemporaryDirectory() as folder:
        with zipfile.ZipFile(path) as whole:
            whole.extract(DUMP, folder)
        _run("pg_restore", "--no-owner", "--exit-on-error", "--dbname", _name(), f"{folder}/{DUMP}")
    found, wanted = table_counts(), manifest["rows"]
    wrong = [name for name in wanted if found.get(name) != wanted[name]]
    if wrong:
        raise BackupError(f"These tables came back with other rows: {', '.join(wrong)}.")
    return manifest


def table_counts() -> dict[str, int]:
    """Return the rows of every table."""
    with connection.cursor() as cursor:
        cursor.execute(_TABLES)
        names = [name for (name,) in cursor.fetchall()]
        counts = {}
        for name in names:
            table = connection.ops.quote_name(name)  # as the database itself lists it
            cursor.execute(f"SELECT count(*) FROM {table}")  # noqa: S608
            counts[name] = int(cursor.fetchone()[0])
    return counts


def _name() -> str:
    return str(connection.settings_dict["NAME"])


def _run(program: str, *arguments: str) -> None:
    """Run one of PostgreSQL's programs on our database; its password travels in the environment."""
    settings = connection.settings_dict
    environment = {
        **os.environ,
        "PGHOST": settings["HOST"],
        "PGPORT": settings["PORT"],
        "PGUSER": settings["USER"],
        "PGPASSWORD": settings["PASSWORD"],
        "PGDATABASE": settings["NAME"],
    }
    done = subprocess.run(  # noqa: S603 - our own command, and a path from the command line
        [_program(program), *arguments], env=environment, capture_output=True, text=True
    )
    if done.returncode:
        raise BackupError(f"{program} failed: {done.stderr.strip()[-600:]}")


def _program(name: str) -> str:
    """Return the newest of Debian's, or what is on the path."""
    folders = sorted(
        Path("/usr/lib/postgresql").glob("*/bin"), key=lambda one: float(one.parent.name)
    )
    found = [str(folder / name) for folder in folders if (folder / name).exists()]
    program = found[-1] if found else shutil.which(name)
    if program is None:
        raise BackupError(f"{name} is missing: sudo apt-get install postgresql-client")
    return program
