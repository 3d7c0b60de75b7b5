"""A database of every landed version migrates with its data, and its pages are served."""

import json
import os
import subprocess
import sys
import uuid
from pathlib import Path

import psycopg
import pytest
from django.db import connection

from inchmark.upkeep.services.backup import _program

HERE = Path(__file__).resolve().parent
ROOT = HERE.parents[1]
ASK = """
import json
import django
django.setup()
from django.test import Client
from inchmark.people.models import User
from inchmark.read.services import make_reading
from inchmark.studies.models import Study
from inchmark.walk.models import Frame
study = Study.objects.get()
make_reading(study.pk)
client = Client(SERVER_NAME="localhost")
client.force_login(User.objects.get(username="demo"))
rooms = ["shelf/", "plan/", "walk/1/", "read/", "decide/", "people/", "changes/"]
print(json.dumps({
    "frames": Frame.objects.count(),
    "visits": len(study.readings.latest("pk").data["value"]["visits"]),
    "pages": {room: client.get(f"/studies/{study.pk}/{room}").status_code for room in rooms},
}))
"""


@pytest.fixture
def empty(db):
    """The address of an empty database."""
    of = connection.settings_dict
    server = f"postgresql://{of['USER']}:{of['PASSWORD']}@{of['HOST']}:{of['PORT']}"
    name = f"upgraded_{uuid.uuid4().hex[:10]}"
    with psycopg.connect(f"{server}/postgres", autocommit=True) as session:
        session.execute(f"CREATE DATABASE {name}")
        yield f"{server}/{name}"
        session.execute(f"DROP DATABASE {name} WITH (FORCE)")


@pytest.mark.parametrize("dump", sorted(HERE.glob("*.dump")), ids=lambda one: one.stem)
def test_a_database_of_a_landed_version_goes_on_with_its_data(empty, dump):
    restore = [_program("pg_restore"), "--no-owner", "--exit-on-error", "--dbname", empty, dump]
    assert subprocess.run(restore, capture_output=True).returncode == 0
    with psycopg.connect(empty) as session:
        frames = session.execute("SELECT count(*) FROM walk_frame").fetchone()[0]
        visits = session.execute("SELECT count(*) FROM walk_visit").fetchone()[0]
    environment = {**os.environ, "INCHMARK_DATABASE_URL": empty}

    def run(*words):
        done = subprocess.run(
            [sys.executable, *words], cwd=ROOT, env=environment, capture_output=True, text=True
        )
        assert done.returncode == 0, done.stderr[-2000:]
        return done.stdout

    run("manage.py", "migrate", "-v0")
    found = json.loads(run("-c", ASK).splitlines()[-1])
    assert (found["frames"], found["visits"]) == (frames, visits)
    assert frames > 1000
    assert set(found["pages"].values()) == {200}, found["pages"]
