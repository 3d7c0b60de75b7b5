"""Server time of the five rooms on the demo study: median of 30, queries, bytes; a profile on wish.

Usage: .venv/bin/python -m bench.pages [--profile ROOM]
Each page is asked whole, in a process of its own, as its owner asks it.
"""

from __future__ import annotations

import argparse

from bench.database import scratch_database
from bench.import_frames import run

ROOMS = {
    "shelf": "shelf/",
    "plan": "plan/",
    "walk": "walk/1/",
    "read": "read/",
    "decide": "decide/",
}
LOAD = """
import sys
from inchmark.demo.services import load_demo
from inchmark.people.services import make_user
from inchmark.read.services import make_reading
from inchmark.studies.models import Study
from inchmark.walk.models import FrameFile
from inchmark.walk.services.ingest import import_frames
load_demo(make_user("demo"))
study = Study.objects.get()
for pk in FrameFile.objects.values_list("pk", flat=True):
    import_frames(pk)
make_reading(study.pk)
print(study.pk)
"""
PAGES = """
import cProfile, pstats, statistics, sys, time
from django.db import connection
from django.test import Client
from inchmark.people.models import User
study, rooms, profiled = sys.argv[1].split()[0], sys.argv[1].split()[1:-1], sys.argv[1].split()[-1]
client = Client(SERVER_NAME="localhost")
client.force_login(User.objects.get(username="demo"))
for room in rooms:
    name, page = room.split("=")
    page = f"/studies/{study}/{page}"
    for _ in range(3):
        response = client.get(page)
        assert response.status_code == 200, (page, response.status_code)
    queries = []
    with connection.execute_wrapper(lambda run, *asked: (queries.append(asked[0]), run(*asked))[1]):
        client.get(page)
    if profiled == name:
        profile = cProfile.Profile()
        profile.enable()
        for _ in range(20):
            client.get(page)
        profile.disable()
        pstats.Stats(profile).sort_stats("cumtime").print_stats(60)
        pstats.Stats(profile).sort_stats("tottime").print_stats(25)
        continue
    times = []
    for _ in range(30):
        began = time.perf_counter()
        client.get(page)
        times.append(1000 * (time.perf_counter() - began))
    print(f"{name:8} {statistics.median(times):6.1f} ms  {len(queries):3} queries  {len(response.content):7} bytes")
"""


def main() -> None:
    """Print a line a room."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--profile", choices=[*ROOMS, "none"], default="none")
    profiled = parser.parse_args().profile
    rooms = [profiled] if profiled != "none" else list(ROOMS)
    with scratch_database() as (_, environment):
        study = run(environment, LOAD, "").split()[-1]
        asked = " ".join([study, *(f"{room}={ROOMS[room]}" for room in rooms), profiled])
        print(run(environment, PAGES, asked, whole=True))


if __name__ == "__main__":
    main()
