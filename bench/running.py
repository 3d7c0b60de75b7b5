"""Inch Mark started with `./start` on data of its own, and browsers that ask it."""

from __future__ import annotations

import gzip
import http.client
import os
import re
import signal
import socket
import subprocess
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
OURS = ("INCHMARK_DATABASE_URL", "DJANGO_SETTINGS_MODULE", "PYTHONPATH", "INCHMARK_VAR")


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


@dataclass(frozen=True)
class Running:
    """A started instance: its launcher, port, data folder, and somebody signed in."""

    launcher: subprocess.Popen
    port: int
    folder: Path
    browser: Browser

    def another(self) -> Browser:
        """Return a further connection of the same session."""
        return Browser(self.port, self.browser.cookies)

    def study(self) -> str:
        """Return the address of the demo study."""
        _, html = self.another().ask("GET", "/", kind="text/html")
        return re.search(rb'href="(/studies/\d+/)', html).group(1).decode()


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
            yield Running(launcher, port, Path(folder), sign_in(port, link))
        finally:
            launcher.send_signal(signal.SIGTERM)
            launcher.wait(60)
