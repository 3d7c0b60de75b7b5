"""Inch Mark started with `./start` on data of its own, and browsers that ask it."""

from __future__ import annotations

import gzip
import http.client
import os
import re
import signal
import socket
import ssl
import subprocess
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlsplit

ROOT = Path(__file__).resolve().parents[1]
BUSY = re.compile(
    rb'^(?:inchmark_queue_depth\{[^}]*\}|inchmark_jobs\{[^}]*state="doing"\}) (.*)$', re.MULTILINE
)
OURS = ("INCHMARK_DATABASE_URL", "DJANGO_SETTINGS_MODULE", "PYTHONPATH", "INCHMARK_VAR")


class Browser:
    """One connection with a session, as one reader has."""

    def __init__(self, base: str, cookies: str = "", *, tls: ssl.SSLContext | None = None) -> None:
        self.base, self.cookies, self.tls = base, cookies, tls
        place = base.partition("://")[2]
        self.line = (
            http.client.HTTPSConnection(place, timeout=60, context=tls)
            if tls
            else http.client.HTTPConnection(place, timeout=60)
        )

    def another(self) -> Browser:
        """Return a further connection of the same session."""
        return Browser(self.base, self.cookies, tls=self.tls)

    def ask(self, method: str, page: str, body: bytes = b"", kind: str = "") -> tuple[int, bytes]:
        """Return status and body; `kind` is the type of what is sent, and asks for it unpacked."""
        headers = {"Cookie": self.cookies, "Accept-Encoding": "gzip"}
        if kind:
            headers |= {"Content-Type": kind, "Referer": f"{self.base}{page}"}
        self.line.request(method, page, body or None, headers)
        answer = self.line.getresponse()
        for name, value in answer.getheaders():
            if name.lower() == "set-cookie":
                self.cookies += ("; " if self.cookies else "") + value.split(";")[0]
        text = answer.read()
        packed = answer.getheader("Content-Encoding") == "gzip"
        return answer.status, gzip.decompress(text) if packed and method == "GET" and kind else text


def sign_in(browser: Browser, link: str) -> Browser:
    """Use a sign-in link."""
    page = urlsplit(link).path
    _, html = browser.ask("GET", page, kind="text/html")
    token = re.search(rb'name="csrfmiddlewaretoken" value="(\w+)"', html).group(1).decode()
    form = f"csrfmiddlewaretoken={token}".encode()
    status, _ = browser.ask("POST", page, form, "application/x-www-form-urlencoded")
    assert status == 302, status
    return browser


def speed() -> float:
    """Return how long a fixed loop takes now [ms]: shared machines change theirs by the minute."""
    began, total = time.perf_counter(), 0
    for i in range(3_000_000):
        total += i
    return 1000 * (time.perf_counter() - began)


def settle(browser: Browser) -> None:
    """Wait until no work waits or runs in the background."""
    busy = True
    while busy:
        time.sleep(1)
        _, text = browser.another().ask("GET", "/metrics", kind="text/plain")
        busy = any(float(count) > 0 for count in BUSY.findall(text))


def first_study(browser: Browser) -> str:
    """Return the address of the first study somebody sees."""
    _, html = browser.another().ask("GET", "/", kind="text/html")
    return re.search(rb'href="(/studies/\d+/)', html).group(1).decode()


@dataclass(frozen=True)
class Running:
    """A started instance: its launcher, port, data folder, and somebody signed in."""

    launcher: subprocess.Popen
    port: int
    folder: Path
    browser: Browser

    def another(self) -> Browser:
        """Return a further connection of the same session."""
        return self.browser.another()

    def study(self) -> str:
        """Return the address of the demo study."""
        return first_study(self.browser)


@contextmanager
def running() -> Iterator[Running]:
    """Start an instance, sign in, hand it over, end it."""
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    environment = {name: value for name, value in os.environ.items() if name not in OURS}
    with tempfile.TemporaryDirectory() as folder:
        os.chmod(folder, 0o755)
        launcher = subprocess.Popen(
            ["./start", "--port", str(port)],
            cwd=ROOT,
            env=environment | {"INCHMARK_VAR": folder},
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
        )
        try:
            link = next(line.strip() for line in launcher.stdout if "/sign-in/" in line)
            next(line for line in launcher.stdout if "Ctrl-C ends it" in line)
            threading.Thread(target=launcher.stdout.read, daemon=True).start()
            yield Running(
                launcher, port, Path(folder), sign_in(Browser(f"http://127.0.0.1:{port}"), link)
            )
        finally:
            launcher.send_signal(signal.SIGTERM)
            launcher.wait(60)
