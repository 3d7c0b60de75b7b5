"""What `./start` does before anything is installed: secrets, ports, sentences."""

import argparse
import os
import pwd
import socket
import stat
import subprocess
import sys
from pathlib import Path

import pytest
from launch.say import StopError

from launch import cluster, machine, start

ROOT = Path(__file__).resolve().parents[2]


def mode(path):
    return stat.S_IMODE(path.stat().st_mode)


def test_a_secret_is_its_owners_alone_from_the_first_byte(tmp_path):
    path = tmp_path / "secret"
    path.write_text("old")
    path.chmod(0o644)
    cluster.write_secret(path, "new")
    assert (path.read_text(), mode(path)) == ("new", 0o600)


def test_a_kept_secret_is_made_once_and_long(tmp_path):
    path = tmp_path / "secret"
    cluster.keep_secret(path)
    first = path.read_text()
    cluster.keep_secret(path)
    assert path.read_text() == first
    assert len(first) >= 40


def test_a_folder_nobody_else_may_enter_is_seen(tmp_path):
    other = pwd.getpwnam("nobody")
    inside = tmp_path / "shut" / "data"
    inside.mkdir(parents=True)
    (tmp_path / "shut").chmod(0o700)
    assert not cluster._can_reach(other, inside)


def test_the_databases_own_variables_do_not_leak_in(monkeypatch):
    monkeypatch.setenv("PGDATA", "/somewhere/else")
    assert "PGDATA" not in cluster._environment()


def test_a_taken_port_is_said_with_what_to_try():
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
        with pytest.raises(StopError, match=rf"Try \./start --port {port + 1}"):
            start._listen(port)


def test_the_whole_command_says_it_in_one_sentence_and_stops():
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = str(taken.getsockname()[1])
        done = subprocess.run(
            ["./start", "--port", port], cwd=ROOT, capture_output=True, text=True, timeout=30
        )
    assert done.returncode == 1
    assert "is taken" in done.stderr
    assert "Traceback" not in done.stderr


def test_a_missing_package_without_root_says_what_to_run(monkeypatch):
    monkeypatch.setattr(os, "geteuid", lambda: 1000)
    monkeypatch.setattr(machine.shutil, "which", lambda name: None)
    with pytest.raises(StopError) as caught:
        machine.install("postgresql")
    assert "sudo apt-get install postgresql" in str(caught.value)
    assert "the study's data live in PostgreSQL" in str(caught.value)


def test_an_old_python_is_refused_by_name(monkeypatch):
    monkeypatch.setattr(sys, "version_info", (3, 10, 0))
    with pytest.raises(StopError, match=r"needs Python 3\.11 or newer"):
        machine.need_python()


def test_the_app_runs_with_the_address_it_was_given():
    environment = start.app_environment("postgresql://x@127.0.0.1:1/y")
    assert environment["INCHMARK_DATABASE_URL"] == "postgresql://x@127.0.0.1:1/y"
    assert environment["OMP_NUM_THREADS"] == "1"


def test_prepare_that_fails_stops_the_start(monkeypatch):
    monkeypatch.setattr(start, "PYTHON", Path("/bin/false"))
    wanted = argparse.Namespace(base="http://127.0.0.1:1", no_demo=True)
    with pytest.raises(StopError, match="could not be made ready"):
        start._prepare(dict(os.environ), wanted)


@pytest.mark.parametrize("port", [0, 65_536, 80_000])
def test_a_port_there_is_none_of_is_said(port):
    with pytest.raises(StopError, match=f"There is no port {port}"):
        start._check_port(port)


def test_headers_that_name_an_address_are_believed_behind_a_proxy_only(monkeypatch):
    with socket.create_server(("127.0.0.1", 0)) as listener:
        environment = start.app_environment("postgresql://x@127.0.0.1:1/y")
        monkeypatch.delenv("INCHMARK_ORIGINS", raising=False)
        assert "--behind-proxy" not in start._web(1, listener, environment).command
        monkeypatch.setenv("INCHMARK_ORIGINS", "https://marsh.example")
        program = start._web(1, listener, environment)
    assert program.command[-2:] == ["--behind-proxy", "127.0.0.1"]
    assert program.environment["INCHMARK_ROLE"] == "web"
    assert program.sockets


def test_every_queue_has_a_worker_and_upkeep_runs_beside_imports():
    environment = start.app_environment("postgresql://x@127.0.0.1:1/y")
    queues = [
        start._worker(queue, at_once, environment).command
        for queue, at_once in start.WORKERS.items()
    ]
    served = {
        name for command in queues for name in command[command.index("--queues") + 1].split(",")
    }
    assert served == {"import", "upkeep", "read", "plan"}


def test_what_the_tables_were_made_from_changes_with_the_database():
    here, there = (
        start._fingerprint({"INCHMARK_DATABASE_URL": f"postgresql://x@{host}:1/y"})
        for host in ("127.0.0.1", "10.0.0.2")
    )
    assert here != there
    assert here == start._fingerprint({"INCHMARK_DATABASE_URL": "postgresql://x@127.0.0.1:7/y"})


def test_a_full_disk_is_said_in_words():
    words = start._os_words(OSError(28, "No space left on device", "/data/secret-key"))
    assert words.startswith("/data/secret-key cannot be written: No space left on device")
