"""Services are kept alive, one instance holds a data folder, little room is said in time."""

import itertools
import os
import signal
import subprocess
import sys
import time
from collections import namedtuple

import pytest
from launch.clock import ClockWatch
from launch.cluster import Cluster
from launch.disk import LITTLE_BYTES, DiskWatch
from launch.lock import DataLock
from launch.machine import need_postgres
from launch.say import StopError
from launch.supervise import Program, Supervisor

from launch import disk, supervise


def sleeper(name="sleeper"):
    command = [sys.executable, "-c", "import time; time.sleep(60)"]
    return Program(name, command, dict(os.environ))


def until(true, services=None, seconds=20):
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, "it did not come true in time"
        if services:
            services.look()
        time.sleep(0.05)


@pytest.fixture
def services():
    found = Supervisor()
    yield found
    found.end()


def test_whatever_is_killed_is_back(services, capsys):
    programs = [sleeper("web process"), sleeper("import worker")]
    for one in programs:
        services.start(one)
    first = [one.process.pid for one in programs]
    for one in programs:
        one.process.send_signal(signal.SIGKILL)
        one.process.wait()
    until(lambda: not any(one.ended() for one in programs), services)
    assert all(one.process.pid not in first for one in programs)
    said = capsys.readouterr().out
    assert "The web process ended; starting it again." in said
    assert "The import worker ended; starting it again." in said


def test_workers_begin_anew_when_the_database_comes_back(services):
    database, web, worker = sleeper("database"), sleeper("web process"), sleeper("worker")
    worker.stands_on = "database"
    for one in (database, web, worker):
        services.start(one)
    first = web.process.pid, worker.process.pid
    database.process.kill()
    database.process.wait()
    until(lambda: worker.process.pid != first[1] and not worker.ended(), services)
    assert web.process.pid == first[0]
    assert not database.ended()


def test_one_that_keeps_ending_is_tried_less_and_less_often(services, monkeypatch):
    service = Program("worker", [sys.executable, "-c", ""], dict(os.environ))
    services.start(service)
    starts, now = [], [0.0]
    monkeypatch.setattr(time, "monotonic", lambda: now[0])
    monkeypatch.setattr(type(service), "ended", lambda self: True)
    monkeypatch.setattr(type(service), "start", lambda self: starts.append(now[0]))
    services.watched[0].began = 0.0
    for step in range(400):
        now[0] = step * 0.1
        services.look()
    pauses = [round(b - a, 1) for a, b in itertools.pairwise(starts)]
    assert pauses == sorted(pauses)
    assert pauses[-1] == pytest.approx(supervise.LONGEST_PAUSE_S, abs=0.3)


def test_a_service_that_cannot_start_again_is_said_and_tried_again(services, monkeypatch, capsys):
    service = sleeper("database")
    services.start(service)
    service.process.kill()
    service.process.wait()
    start, tries = type(service).start, []

    def refuse_once(self):
        tries.append(1)
        if len(tries) == 1:
            raise StopError("no room")
        start(self)

    monkeypatch.setattr(type(service), "start", refuse_once)
    until(lambda: len(tries) == 2, services)
    assert "The database does not start: no room" in capsys.readouterr().out


def test_all_end_together_and_one_that_will_not_is_killed(services, monkeypatch):
    monkeypatch.setattr(supervise, "END_S", 0.3)
    deaf = Program(
        "deaf",
        [
            sys.executable,
            "-c",
            "import signal, time; signal.signal(signal.SIGTERM, signal.SIG_IGN); print(1, flush=True); time.sleep(60)",
        ],
        dict(os.environ),
    )
    services.start(deaf)
    time.sleep(0.5)
    services.end()
    assert deaf.ended()


def test_a_killed_database_comes_back_where_it_was(tmp_path, services):
    cluster = Cluster(tmp_path / "postgres", need_postgres(), durable=False)
    services.start(cluster)
    url = cluster.url
    cluster.process.send_signal(signal.SIGKILL)
    cluster.process.wait()
    until(lambda: not cluster.ended(), services)
    assert cluster.url == url
    asked = subprocess.run(
        [str(need_postgres() / "psql"), "-tA", url, "-c", "select 1"],
        capture_output=True,
        text=True,
    )
    assert asked.stdout.strip() == "1"


def test_a_second_instance_on_the_same_data_says_where_the_first_is(tmp_path):
    first = DataLock(tmp_path)
    first.take("http://127.0.0.1:8000/")
    second = DataLock(tmp_path)
    with pytest.raises(StopError, match=r"runs on this data already, at http://127\.0\.0\.1:8000/"):
        second.take("http://127.0.0.1:8001/")
    os.close(first.file)
    second.take("http://127.0.0.1:8001/")
    assert (tmp_path / "running").read_text() == "http://127.0.0.1:8001/"


def test_little_room_is_said_once_and_again_after_there_was_some(tmp_path, monkeypatch, capsys):
    usage = namedtuple("usage", "free")
    free = [LITTLE_BYTES - 1]
    monkeypatch.setattr(disk.shutil, "disk_usage", lambda folder: usage(free[0]))
    watch = DiskWatch(tmp_path)

    def look():
        watch.next_look = 0.0
        watch.look()
        return capsys.readouterr().out

    assert "has 2048 MB left" in look()
    assert look() == ""
    free[0] = LITTLE_BYTES
    assert look() == ""
    free[0] = 5
    assert "Make room" in look()


@pytest.mark.parametrize(
    ("jump_s", "words"),
    [(7200.0, "jumped forward by 2 h"), (-600.0, "jumped back by 10 min"), (20.0, "")],
)
def test_a_clock_that_jumps_is_told_of_once(capsys, jump_s, words):
    now = {"day": 1000.0, "steady": 5.0}
    watch = ClockWatch(lambda: now["day"], lambda: now["steady"])
    now["day"] += 3.0 + jump_s
    now["steady"] += 3.0
    watch.look()
    watch.look()
    told = capsys.readouterr().out
    assert told.count("The clock of this machine") == bool(words)
    assert words in told
