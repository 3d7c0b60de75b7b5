"""Break everything during a simulated walk, and count what is stored at the end.

    python -m tests.tools.faults                 # 50,000 frames, as long as it takes
    python -m tests.tools.faults --frames 5000

Four simulated boards print into files, a bridge follows them and sends to the app over a line that
can be cut. Meanwhile the bridge is killed 20 times, web processes and workers 10, the database 5 and
the line cut 20 times. At the end every frame that was printed must be stored once. Exit code 1 if not.
"""

from __future__ import annotations

import argparse
import os
import random
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

import psycopg
from bench.running import ROOT, Running, running

from tests.tools.kills import children

SEED, BOARDS, RATE_S, PATIENCE_S = 20261127, "ABC", 170.0, 900.0
WALK = 1  # the demo's
FAULTS = {"bridge": 20, "app": 10, "database": 5, "network": 20}
PROCESSES = {"app": ("config.serve", "procrastinate worker"), "database": ("postgres -D",)}


@dataclass
class Line:
    """A TCP line to the app that can be cut for a while."""

    to: int
    port: int = field(init=False)
    cut_until: float = 0.0
    open: list[socket.socket] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.door = socket.create_server(("127.0.0.1", 0))
        self.port = self.door.getsockname()[1]
        threading.Thread(target=self._take, daemon=True).start()

    def _take(self) -> None:
        while True:
            one, _ = self.door.accept()
            if time.monotonic() < self.cut_until:
                one.close()
                continue
            try:
                other = socket.create_connection(("127.0.0.1", self.to), timeout=5)
            except OSError:
                one.close()
                continue
            self.open += [one, other]
            for a, b in ((one, other), (other, one)):
                threading.Thread(target=self._carry, args=(a, b), daemon=True).start()

    @staticmethod
    def _carry(a: socket.socket, b: socket.socket) -> None:
        try:
            while data := a.recv(65_536):
                b.sendall(data)
        except OSError:
            pass
        for one in (a, b):
            one.close()

    def cut(self, seconds: float) -> None:
        """Close every connection, and take none for so long."""
        self.cut_until = time.monotonic() + seconds
        for one in self.open:
            try:
                one.shutdown(socket.SHUT_RDWR)
            except OSError:
                continue
        self.open.clear()


@dataclass
class Bridging:
    """The bridge as a process that is started again whenever it was killed."""

    command: list[str]
    process: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Begin."""
        self.process = subprocess.Popen(
            self.command, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL
        )

    def kill(self) -> None:
        """Kill it hard, and begin anew."""
        self.process.kill()
        self.process.wait()
        self.start()


def tool(app: Running, *command: str) -> str:
    """Run a management command on the app's data."""
    environment = os.environ | {
        "INCHMARK_VAR": str(app.folder),
        "INCHMARK_DATABASE_URL": (app.folder / "database-url").read_text().strip(),
        "DJANGO_SETTINGS_MODULE": "inchmark.config.settings.production",
        "PYTHONPATH": str(ROOT / "src"),
    }
    made = [str(ROOT / ".venv/bin/python"), "manage.py", *command]
    done = subprocess.run(
        made, cwd=ROOT, env=environment, check=True, capture_output=True, text=True
    )
    return done.stdout


def kill_one(app: Running, names: tuple[str, ...], dice: random.Random) -> None:
    """Kill one of the app's processes hard, if one is there just now."""
    found = [pid for pid, words in children(app) if any(name in words for name in names)]
    if found:
        os.kill(dice.choice(found), signal.SIGKILL)


def stored(app: Running) -> tuple[int, int]:
    """Return frames of the simulated sources that are stored, and how many different ones."""
    asked = """
        SELECT count(*), count(DISTINCT (v.rig_id, f.seq)) FROM walk_frame f
        JOIN walk_visit v ON v.id = f.visit_id JOIN walk_framefile l ON l.id = f.file_id
        WHERE f.heard AND l.source LIKE 'sim-%'
    """
    url = (app.folder / "database-url").read_text().strip()
    try:
        with psycopg.connect(url, connect_timeout=5) as line:
            row = line.execute(asked).fetchone()
    except psycopg.Error:
        return 0, 0
    return int(row[0]), int(row[1])


def main() -> int:
    """Walk, break, count."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--frames", type=int, default=50_000)
    asked = parser.parse_args()
    with running() as app, tempfile.TemporaryDirectory() as name:
        return _broken_walk(app, Path(name), asked.frames)


def _broken_walk(app: Running, folder: Path, frames: int) -> int:
    line, dice = Line(app.port), random.Random(SEED)
    (folder / "token").write_text(tool(app, "access_token", "demo", "faults").split()[-1])
    simulated = _boards(folder, frames)
    bridge = Bridging(_bridge(folder, line.port))
    bridge.start()
    what = [kind for kind, times in FAULTS.items() for _ in range(times)]
    dice.shuffle(what)
    pause = frames / RATE_S / (len(what) + 1)
    acts: dict[str, Callable[[], None]] = {
        "bridge": bridge.kill,
        "network": lambda: line.cut(dice.uniform(0.5, 3)),
        "app": lambda: kill_one(app, PROCESSES["app"], dice),
        "database": lambda: kill_one(app, PROCESSES["database"], dice),
    }
    for kind in what:
        time.sleep(pause)
        acts[kind]()
    simulated.wait()
    printed = sum(
        text.count("rx rig=") for text in ((folder / f"{b}.log").read_text() for b in BOARDS)
    )
    until = time.monotonic() + PATIENCE_S
    while stored(app) != (printed, printed) and time.monotonic() < until:
        time.sleep(2)
    count, different = stored(app)
    bridge.process.terminate()
    bridge.process.wait(60)
    print(", ".join(f"{kind} {times} times" for kind, times in FAULTS.items()), "broken")
    print(
        f"{printed} frames printed, {count} stored: {printed - different} lost, {count - different} twice"
    )
    return 0 if count == different == printed else 1


def _boards(folder: Path, frames: int) -> subprocess.Popen[bytes]:
    """Let boards walk past each other, so near that nearly all is heard, at `RATE_S` frames a second."""
    interval_s = 2.0
    dwell_s = frames / len(BOARDS) * interval_s
    pace = RATE_S / len(BOARDS) * interval_s
    return subprocess.Popen(
        [
            str(ROOT / ".venv/bin/inchmark"), "simulate", "--boards", str(len(BOARDS)),
            "--dialect", "keys", "--on", f"file:{folder}", "--route", "30",
            "--dwell", str(dwell_s), "--pace", str(pace), "--began", "2026-11-14T09:00:00Z",
        ],
        stdout=subprocess.DEVNULL,
    )  # fmt: skip


def _bridge(folder: Path, port: int) -> list[str]:
    command = [str(ROOT / ".venv/bin/inchmark"), "bridge", "--spool", str(folder / "spool.sqlite")]
    for board in BOARDS:
        command += ["--source", f"sim-{board}=file:{folder / board}.log"]
        command += ["--set", f"sim-{board}:rig={board}", "--set", f"sim-{board}:stop=1"]
    door = f"http://127.0.0.1:{port}/api/walks/{WALK}/lines"
    return [*command, "--post", door, "--token-file", str(folder / "token")]


if __name__ == "__main__":
    sys.exit(main())
