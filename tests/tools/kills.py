"""Kill the database, web processes and workers hard while logs arrive, and count what is left.

    python -m tests.tools.kills        # 20 kills
    python -m tests.tools.kills 100

Starts Inch Mark with `./start` on data of its own. Uploads a log again and again, each with frames
of its own, while a live source posts its lines, and kills a process at random in between. At the end
every line that was acknowledged must be there once, in a log and as a frame; every log that was acknowledged
must be there once, read, with all its frames and no more; no job may be stuck, and the newest
reading must be of the newest revision. Exit code 1 if anything is lost, double or stuck.
"""

from __future__ import annotations

import http.client
import os
import random
import re
import signal
import sys
import time
from pathlib import Path

import psycopg
from bench.running import Browser, Running, running

from tests.tools.posting import AT_ONCE, SOURCE, Posting

SEED, FRAMES, LONGEST_S = 20261126, 40, 180.0
BUSY = """
    SELECT id, task_name, status::text, attempts, lock, queueing_lock, worker_id, scheduled_at::text
    FROM procrastinate_jobs WHERE status IN ('todo', 'doing') AND queue_name <> 'upkeep'
"""
NAMES = ("config.serve", "procrastinate worker", "postgres -D")


def log_of(number: int) -> bytes:
    """Return a log that no other is equal to."""
    rows = [f"A,{1 + number % 8},{number * FRAMES + i},1,{-90 - i % 7}" for i in range(FRAMES)]
    return ("rig,stop,seq,heard,rssi_dbm\n" + "\n".join(rows) + "\n").encode()


def upload(own: Browser, study: str, number: int) -> bool:
    """Send a log; True once it is acknowledged, False if the line broke or the answer was no."""
    browser = own.another()
    try:
        _, html = browser.ask("GET", f"{study}walk/1/", kind="text/html")
        token = re.search(rb'name="csrfmiddlewaretoken" value="(\w+)"', html)
        if token is None:
            return False
        body = (
            b'--x\r\nContent-Disposition: form-data; name="csrfmiddlewaretoken"\r\n\r\n'
            + token.group(1)
            + b'\r\n--x\r\nContent-Disposition: form-data; name="file"; filename="'
            + f"{number}.csv".encode()
            + b'"\r\n\r\n'
            + log_of(number)
            + b"\r\n--x--\r\n"
        )
        page = f"{study}walk/1/log/"
        status, _ = browser.ask("POST", page, body, "multipart/form-data; boundary=x")
    except (OSError, http.client.HTTPException):
        return False
    return status == 302


def children(app: Running) -> list[tuple[int, str]]:
    """Return the processes of an instance with their commands, its launcher left out."""
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            words = (folder / "cmdline").read_bytes().replace(b"\0", b" ").decode()
            parent = int((folder / "stat").read_text().rsplit(")", 1)[1].split()[1])
        except (OSError, ValueError):
            continue
        if parent == app.launcher.pid and any(name in words for name in NAMES):
            found.append((int(folder.name), words))
    return found


def main() -> int:
    """Load, kill, wait, count."""
    kills = int(sys.argv[1]) if len(sys.argv) > 1 else 20
    chance, sent, killed = random.Random(SEED), set[int](), dict.fromkeys(NAMES, 0)
    with running() as app:
        study, number, posting = app.study(), 0, Posting(app, 1)
        for _ in range(kills):
            for _ in range(chance.randint(1, 2)):
                number += 1
                until = time.monotonic() + 60
                while not upload(app.browser, study, number):  # whoever was told no tries again
                    if time.monotonic() > until:
                        posting.end()
                        print(f"LOST: log {number} was not taken for a minute")
                        return 1
                    time.sleep(0.3)
                sent.add(number)
                time.sleep(2.1)  # under the limit of logs a minute
            pid, words = chance.choice(children(app))
            os.kill(pid, signal.SIGKILL)
            killed[next(name for name in NAMES if name in words)] += 1
            time.sleep(chance.random())
        live = posting.end()
        tally = _wait_and_count(app, sent, live, posting.refused)
    print(", ".join(f"{count} x {name}" for name, count in killed.items()))
    for line in tally:
        print(line)
    return 1 if any(line.startswith("WRONG") for line in tally) else 0


def _wait_and_count(app: Running, sent: set[int], live: int, refused: list[str]) -> list[str]:
    url = (app.folder / "database-url").read_text().strip()
    told = wait_and_count(url, sent)
    with psycopg.connect(url, connect_timeout=5) as database:
        told += _count_live(database, live)
    return told + [f"WRONG: a live post was refused: {words}" for words in refused[:3]]


def _count_live(database: psycopg.Connection, live: int) -> list[str]:
    """Return what is there of the lines a live source was told had come."""
    rows = database.execute(
        "SELECT f.line_count, f.frame_count, count(w.id), count(DISTINCT w.seq), string_agg(DISTINCT "
        "f.state, ',') FROM walk_framefile f LEFT JOIN walk_frame w ON w.file_id = f.id "
        "WHERE f.source = %s GROUP BY f.id",
        [SOURCE],
    ).fetchall()
    if len(rows) != 1:
        return [f"WRONG: {len(rows)} logs of one live source"]
    lines, counted, there, distinct, state = rows[0]
    fine = live <= lines <= live + AT_ONCE and counted == there == distinct == lines - 1
    words = f"{live} live lines acknowledged, {lines} there, {there} frames, {distinct} of them distinct ({state})"
    return [words if fine and state == "read" else f"WRONG: {words}"]


def wait_and_count(url: str, sent: set[int]) -> list[str]:
    """Wait until no work is left, and return what is there of what was sent."""
    until, busy = time.monotonic() + LONGEST_S, ["the database does not answer"]
    while time.monotonic() < until:
        try:
            with psycopg.connect(url, connect_timeout=5) as database:
                busy = database.execute(BUSY).fetchall()
                if not busy:
                    return _count(database, sent)
        except psycopg.Error as wrong:
            busy = [str(wrong)]
        time.sleep(1)
    return [f"WRONG: work is stuck after {LONGEST_S:.0f} s", *map(str, busy)]


def _count(database: psycopg.Connection, sent: set[int]) -> list[str]:
    rows = database.execute(
        "SELECT f.name, f.state, f.frame_count, (SELECT count(*) FROM walk_frame w WHERE w.file_id = f.id) "
        "FROM walk_framefile f WHERE f.name ~ '^[0-9]+\\.csv$'"
    ).fetchall()
    names = [int(name.split(".")[0]) for name, *_ in rows]
    behind = database.execute(
        "SELECT s.revision - max(r.revision) FROM studies_study s JOIN read_studyreading r "
        "ON r.study_id = s.id GROUP BY s.id"
    ).fetchall()
    told = {
        "acknowledged logs lost": len(sent - set(names)),
        "logs there twice": len(names) - len(set(names)),
        "logs not read": sum(state != "read" for _, state, *_ in rows),
        "logs with too few or too many frames": sum(
            not counted == there == FRAMES for *_, counted, there in rows
        ),
        "revisions the reading is behind": max(row[0] for row in behind),
    }
    lines = [f"{len(sent)} logs acknowledged, {len(rows)} there"]
    return lines + [f"{'WRONG: ' if n else ''}{n} {what}" for what, n in told.items()]


if __name__ == "__main__":
    sys.exit(main())
