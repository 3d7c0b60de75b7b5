"""A backup holds every table of one moment, comes back the same, and never overwrites."""

import hashlib
import os
import subprocess
import sys
import uuid
from pathlib import Path

import psycopg
import pytest
from django.core.management import CommandError, call_command
from django.db import connection

from inchmark.upkeep.services import backup
from tests import make

ROOT = Path(__file__).resolve().parents[2]


def url_of(name):
    settings = connection.settings_dict
    return f"postgresql://{settings['USER']}:{settings['PASSWORD']}@{settings['HOST']}:{settings['PORT']}/{name}"


@pytest.fixture
def empty():
    """The address of an empty database."""
    name = f"restored_{uuid.uuid4().hex[:10]}"
    with psycopg.connect(url_of("postgres"), autocommit=True) as server:
        server.execute(f"CREATE DATABASE {name}")
        yield url_of(name)
        server.execute(f"DROP DATABASE {name} WITH (FORCE)")


def contents(url):
    """A digest of the rows of every table."""
    with psycopg.connect(url) as database:
        names = [row[0] for row in database.execute(backup._TABLES).fetchall()]
        return {
            name: hashlib.sha256(
                "\n".join(
                    sorted(row[0] for row in database.execute(f"SELECT t::text FROM {name} t"))
                ).encode()
            ).hexdigest()
            for name in names
        }


def restore(file, into):
    return subprocess.run(
        [sys.executable, "manage.py", "restore", str(file)],
        cwd=ROOT,
        env={**os.environ, "INCHMARK_DATABASE_URL": into},
        capture_output=True,
        text=True,
    )


@pytest.mark.django_db(transaction=True)
def test_every_table_comes_back_row_for_row(tmp_path, empty):
    study = make.field_study()
    make.log(make.walk(study), make.frames_log())
    file = tmp_path / "marsh.backup"
    call_command("backup", str(file))
    assert file.stat().st_mode & 0o777 == 0o600
    before = contents(url_of(connection.settings_dict["NAME"]))
    done = restore(file, empty)
    assert done.returncode == 0, done.stderr
    assert "every table has the rows it had" in done.stdout
    assert contents(empty) == before
    again = restore(file, empty)
    assert "has tables already" in again.stderr
    assert "Traceback" not in again.stderr


@pytest.mark.django_db(transaction=True)
def test_the_manifest_tells_versions_and_rows(tmp_path):
    make.field_study()
    file = tmp_path / "a.backup"
    manifest = backup.write_backup(file)
    assert manifest["rows"]["plan_stop"] == 2
    assert any(name.startswith("walk.") for name in manifest["migrations"])
    assert backup.read_manifest(file) == manifest
    assert [one.name for one in tmp_path.iterdir()] == ["a.backup"]


def test_a_backup_is_never_written_over(tmp_path):
    file = tmp_path / "a.backup"
    file.write_text("mine")
    with pytest.raises(CommandError, match="never written over"):
        call_command("backup", str(file))
    assert file.read_text() == "mine"


@pytest.mark.parametrize("data", [b"", b"no zip", b"PK\x03\x04 half"])
def test_what_is_no_backup_is_said(tmp_path, data):
    file = tmp_path / "a.backup"
    file.write_bytes(data)
    with pytest.raises(CommandError, match="is no backup"):
        call_command("restore", str(file))


@pytest.mark.django_db(transaction=True)
def test_a_dump_that_fails_leaves_nothing(tmp_path, monkeypatch):
    monkeypatch.setattr(backup, "_program", lambda name: "/bin/false")
    with pytest.raises(CommandError, match="pg_dump failed"):
        call_command("backup", str(tmp_path / "a.backup"))
    assert list(tmp_path.iterdir()) == []
