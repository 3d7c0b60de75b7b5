"""Pages a second and their times with 20 readers at once, while 200 000 frames are imported.

Usage: .venv/bin/python -m bench.load [--readers 20] [--seconds 20] [--rows 200000]
Starts Inch Mark with `./start` on data of its own; readers and server share this machine's cores,
so the server has less of them than it would have alone.
"""

from __future__ import annotations

import argparse
import re
import statistics
import tempfile
import threading
import time
from pathlib import Path

from bench.import_frames import write_log
from bench.running import Browser, Running, running, settle, speed

ROOMS = ("shelf/", "plan/", "walk/1/", "read/", "decide/")


def upload(browser: Browser, study: str, rows: int) -> None:
    """Send a log of so many frames to a walk."""
    with tempfile.TemporaryDirectory() as folder:
        write_log(Path(folder) / "log.csv", rows)
        data = (Path(folder) / "log.csv").read_bytes()
    _, html = browser.ask("GET", f"{study}walk/1/", kind="text/html")
    token = re.search(rb'name="csrfmiddlewaretoken" value="(\w+)"', html).group(1)
    body = (
        b'--x\r\nContent-Disposition: form-data; name="csrfmiddlewaretoken"\r\n\r\n' + token
        + b'\r\n--x\r\nContent-Disposition: form-data; name="file"; filename="load.csv"\r\n\r\n'
        + data + b"\r\n--x--\r\n"
    )  # fmt: skip
    status, _ = browser.ask("POST", f"{study}walk/1/log/", body, "multipart/form-data; boundary=x")
    assert status == 302, status


def read(own: Browser, pages: list[str], until: float, times: list[float]) -> None:
    """Ask page after page until a time."""
    browser, i = own.another(), 0
    while time.perf_counter() < until:
        began = time.perf_counter()
        status, _ = browser.ask("GET", pages[i % len(pages)])
        times.append(time.perf_counter() - began)
        assert status == 200, (pages[i % len(pages)], status)
        i += 1


def main() -> None:
    """Start, wait for the demo to be read, load, print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--readers", type=int, default=20)
    parser.add_argument("--seconds", type=float, default=20)
    parser.add_argument("--rows", type=int, default=200_000)
    asked = parser.parse_args()
    with running() as app:
        _measure(app, asked)


def _measure(app: Running, asked: argparse.Namespace) -> None:
    browser, study = app.browser, app.study()
    while b"dBm" not in app.another().ask("GET", f"{study}read/", kind="text/html")[1]:
        time.sleep(1)
    settle(app.browser)
    read(browser, [study + room for room in ROOMS], time.perf_counter() + 2, [])  # drawn once
    pages = [study + room for room in ROOMS]
    for row in ("alone", "while frames are imported"):
        if row != "alone":
            upload(app.another(), study, asked.rows)
        before = speed()
        times: list[float] = []
        until = time.perf_counter() + asked.seconds
        readers = [
            threading.Thread(target=read, args=(browser, pages, until, times))
            for _ in range(asked.readers)
        ]
        began = time.perf_counter()
        for one in readers:
            one.start()
        for one in readers:
            one.join()
        rate, ordered = len(times) / (time.perf_counter() - began), sorted(times)
        p95 = ordered[int(0.95 * len(ordered))]
        print(
            f"{asked.readers} readers {row}: {rate:.0f} pages a second, "
            f"p50 {1000 * statistics.median(times):.0f} ms, p95 {1000 * p95:.0f} ms "
            f"(a fixed loop took {before:.0f} ms before)"
        )


if __name__ == "__main__":
    main()
