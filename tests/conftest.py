"""Fixtures of all rooms; a fixture returns one thing.

Django is met inside them only: `tests/core` runs without it.
"""

from __future__ import annotations

import os

import pytest

from tests import unhurried  # noqa: F401

LEVELS = {"A": (-70, -85, -98, -108), "B": (-66, -81, -94, -104)}


@pytest.fixture
def study(db):
    """A study with rig A, and stops 1 and 2 at 50 and 100 m."""
    from tests import make

    return make.field_study()


@pytest.fixture
def owner_client(client, study):
    """A browser signed in as the study's owner."""
    from tests import make

    client.force_login(make.owner(study))
    return client


@pytest.fixture
def app_process_environment(transactional_db):
    """The environment in which a process of its own sees the test database."""
    from django.db import connection

    found = connection.settings_dict
    url = "postgresql://{USER}:{PASSWORD}@{HOST}:{PORT}/{NAME}".format(**found)
    return {**os.environ, "INCHMARK_DATABASE_URL": url}


@pytest.fixture
def walked(db):
    """A study of two rigs at four stops, walked and read."""
    from inchmark.read.services import make_reading
    from tests import make

    study = make.field_study(rigs="AB", stops=4, needed_m=300.0)
    walk = make.walk(study)
    rows = []
    for rig, levels in LEVELS.items():
        for stop, level in enumerate(levels, start=1):
            for i in range(40):
                heard = level > -105 or i % 3
                rssi = level + (i % 5) - 2 if heard else ""
                rows.append(f"{rig},{stop},{i},{int(bool(heard))},{rssi}")
    make.log(walk, make.LOG_HEADER + "\n".join(rows) + "\n")
    make_reading(study.pk)
    return study


@pytest.fixture
def reader(client, walked):
    """A browser signed in as the walked study's owner."""
    from tests import make

    client.force_login(make.owner(walked))
    return client


@pytest.fixture(autouse=True)
def nothing_remembered(request):
    """Start without what another test's studies left; a rolled-back revision can come again."""
    if "db" in request.fixturenames or "live_server" in request.fixturenames:
        from inchmark.read import adapters
        from inchmark.studies import memory

        memory.forget()
        adapters.forget()
