"""Memory of every process over half an hour of reading pages, uploading logs and posting live lines.

Usage: python -m tests.tools.memory [--minutes 30]
Starts Inch Mark with `./start` on data of its own. Prints each process's memory [MB] after a sixth of
the time, when what is kept is kept, and at the end; exit code 1 if one grew by more than a tenth and
20 MB between them.
"""

from __future__ import annotations

import argparse
import re
import sys
import threading
import time
from pathlib import Path

from bench.running import Running, running, settle

from tests.tools.kills import children, upload
from tests.tools.posting import Posting

GROWN, GROWN_MB = 1.1, 20.0
PAGES = (
    "shelf/", "plan/", "plan/map/", "plan/predicted/", "walk/1/", "read/", "decide/", "people/", "work/",
    "read/visits.csv", "read/frames.csv",
)  # fmt: skip


def memory_mb(app: Running) -> dict[str, float]:
    """Return the memory of an instance's own processes by name and pid, PostgreSQL's left out."""
    found = {"launcher": _rss(app.launcher.pid)}
    for pid, words in children(app):
        kind = re.search(r"config\.serve|queues [\w,]+", words)
        if kind:
            found[f"{kind.group()} ({pid})"] = _rss(pid)
    return found


def _rss(pid: int) -> float:
    status = Path(f"/proc/{pid}/status").read_text()
    return int(re.search(r"VmRSS:\s+(\d+)", status).group(1)) / 1024


def read_on(app: Running, study: str, ended: threading.Event) -> None:
    """Ask page after page, a few a second."""
    browser, i = app.another(), 0
    while not ended.wait(0.2):
        status, _ = browser.ask("GET", study + PAGES[i % len(PAGES)])
        assert status in (200, 404, 302), (PAGES[i % len(PAGES)], status)
        i += 1


def main() -> int:
    """Load, look, compare."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=30)
    minutes, ended = parser.parse_args().minutes, threading.Event()
    with running() as app:
        study = app.study()
        settle(app.browser)
        posting = Posting(app, 1)
        readers = [threading.Thread(target=read_on, args=(app, study, ended)) for _ in range(4)]
        for one in readers:
            one.start()
        try:
            early, number, until = None, 0, time.monotonic() + 60 * minutes
            while time.monotonic() < until:
                number += 1
                assert upload(app.browser, study, number), "a log was not taken"
                time.sleep(10)
                if early is None and time.monotonic() > until - 50 * minutes:
                    early = memory_mb(app)
        finally:
            ended.set()
            lines = posting.end()
            for one in readers:
                one.join()
        late = memory_mb(app)
    print(f"{minutes:g} minutes, {number} logs, {lines} live lines")
    return _told(early or {}, late)


def _told(early: dict[str, float], late: dict[str, float]) -> int:
    wrong = 0
    for name, mb in sorted(late.items()):
        before = early.get(name)
        grew = before is not None and mb > GROWN * before and mb > before + GROWN_MB
        wrong += before is None or grew
        print(f"{name:40} {before or 0:6.0f} -> {mb:6.0f} MB{'  GROWS' if grew else ''}")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main())
