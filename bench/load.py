"""Pages a second and their times with 20 readers at once, while 200 000 frames are imported.

Usage: .venv/bin/python -m bench.load [--readers 20] [--seconds 20] [--rows 200000]
Starts Inch Mark with `./start` on data of its own; readers and server share this machine's cores,
so the server has less of them than it would have alone.
"""

from __future__ import annotations

import argparse
import gzip
import http.client
import os
import re
import signal
import socket
import statistics
import subprocess
import tempfile
import threading
import time
from pathlib import Path

from bench.import_frames import write_log

ROOT = Path(__file__).resolve().parents[1]
ROOMS = ("shelf/", "plan/", "walk/1/", "read/", "decide/")


class Browser:
    """One connection with a session, as one reader has."""

    def __init__(self, port: int, cookies: str = "") -> None:
        self.line = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        self.cookies = cookies

    def ask(self, method: str, page: str, body: bytes = b"", kind: str = "") -> tuple[int, bytes]:
        headers = {"Cookie": self.cookies, "Accept-Encoding": "gzip"}
        if kind:
            headers |= {"Content-Type": kind, "Referer": f"http://127.0.0.1{page}"}
        self.line.request(method, page, body or None, headers)
        answer = self.line.getresponse()
        for name, value in answer.getheaders():
            if name.lower() == "set-cookie":
                self.cookies += ("; " if self.cookies else "") + value.split(";")[0]
        text = answer.read()
        packed = answer.getheader("Content-Encoding") == "gzip"
        return answer.status, gzip.decompress(text) if packed and method == "GET" and kind else text


def sign_in(port: int, link: str) -> Browser:
    """Use the sign-in link the start printed."""
    browser, page = Browser(port), link.split(str(port))[1]
    _, html = browser.ask("GET", page, kind="text/html")
    token = re.search(rb'name="csrfmiddlewaretoken" value="(\w+)"', html).group(1).decode()
    form = f"csrfmiddlewaretoken={token}".encode()
    status, _ = browser.ask("POST", page, form, "application/x-www-form-urlencoded")
    assert status == 302, status
    return browser


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


def read(port: int, cookies: str, pages: list[str], until: float, times: list[float]) -> None:
    """Ask page after page until a time."""
    browser, i = Browser(port, cookies), 0
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
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    kept = ("INCHMARK_DATABASE_URL", "DJANGO_SETTINGS_MODULE", "PYTHONPATH", "INCHMARK_VAR")
    environment = {name: value for name, value in os.environ.items() if name not in kept}
    with tempfile.TemporaryDirectory() as folder:
        os.chmod(folder, 0o755)
        running = subprocess.Popen(
            ["./start", "--port", str(port)],
            cwd=ROOT,
            env=environment | {"INCHMARK_VAR": folder},
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        try:
            _measure(running, port, asked)
        finally:
            running.send_signal(signal.SIGTERM)
            running.wait(60)


def _measure(running: subprocess.Popen, port: int, asked: argparse.Namespace) -> None:
    link = next(line.strip() for line in running.stdout if "/sign-in/" in line)
    next(line for line in running.stdout if "Ctrl-C ends it" in line)
    threading.Thread(target=running.stdout.read, daemon=True).start()
    browser = sign_in(port, link)
    _, html = browser.ask("GET", "/", kind="text/html")
    study = re.search(rb'href="(/studies/\d+/)', html).group(1).decode()
    while b"dBm" not in browser.ask("GET", f"{study}read/", kind="text/html")[1]:
        time.sleep(1)
    time.sleep(8)  # the demo is read to the end
    pages = [study + room for room in ROOMS]
    for row in ("alone", "while frames are imported"):
        if row != "alone":
            upload(Browser(port, browser.cookies), study, asked.rows)
        times: list[float] = []
        until = time.perf_counter() + asked.seconds
        readers = [
            threading.Thread(target=read, args=(port, browser.cookies, pages, until, times))
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
            f"p50 {1000 * statistics.median(times):.0f} ms, p95 {1000 * p95:.0f} ms"
        )


if __name__ == "__main__":
    main()
