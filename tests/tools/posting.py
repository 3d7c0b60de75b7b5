"""Somebody who sends the lines of a live source on and on, as a bridge does, whatever dies meanwhile."""

from __future__ import annotations

import http.client
import json
import os
import subprocess
import threading
from contextlib import closing
from dataclasses import dataclass, field

from bench.running import ROOT, Running

HEADER, EVERY_S, AT_ONCE = "rig,stop,seq,heard,rssi_dbm", 0.25, 5
SOURCE, START = "live", "start-1"


@dataclass
class Posting:
    """Lines of one source posted in order until told to stop; what was acknowledged is counted."""

    app: Running
    walk: int
    through: int = 0  # lines the app said it has
    refused: list[str] = field(default_factory=list)

    def __post_init__(self) -> None:
        """Get a token, and begin."""
        made = [".venv/bin/python", "manage.py", "access_token", "demo", "live"]
        environment = os.environ | {
            "INCHMARK_VAR": str(self.app.folder),
            "INCHMARK_DATABASE_URL": (self.app.folder / "database-url").read_text().strip(),
            "DJANGO_SETTINGS_MODULE": "inchmark.config.settings.production",
            "PYTHONPATH": str(ROOT / "src"),
        }
        printed = subprocess.run(
            made, cwd=ROOT, env=environment, check=True, capture_output=True, text=True
        ).stdout
        self.token, self.ended = printed.split()[-1], threading.Event()
        self.thread = threading.Thread(target=self._run)
        self.thread.start()

    def _run(self) -> None:
        while not self.ended.wait(EVERY_S):
            self._post()

    def _post(self) -> None:
        first = self.through + 1
        body = {"source": SOURCE, "start": START, "first": first, "constants": {}}
        body["lines"] = [line(n) for n in range(first, first + AT_ONCE)]
        try:
            opened = http.client.HTTPConnection("127.0.0.1", self.app.port, timeout=15)
            with closing(opened) as there:
                headers = {"Authorization": f"Bearer {self.token}"}
                headers["Content-Type"] = "application/json"
                there.request("POST", f"/api/walks/{self.walk}/lines", json.dumps(body), headers)
                answer = there.getresponse()
                told = answer.read()
        except (OSError, http.client.HTTPException):
            return  # sent again, from the same line
        if answer.status == 200:
            self.through = json.loads(told)["through"]
        elif answer.status < 500:
            self.refused.append(f"{answer.status} {told[:200]!r}")

    def end(self) -> int:
        """Stop; return how many lines were acknowledged."""
        self.ended.set()
        self.thread.join()
        return self.through


def line(number: int) -> str:
    """Return a line of the source by its number, from 1."""
    return HEADER if number == 1 else f"B,{1 + number % 8},{number},1,{-90 - number % 7}"
