"""Lines a second into the HTTP API: four sources post batches, and every line is counted at the end.

Usage: .venv/bin/python -m bench.api_lines [--rate 2000] [--seconds 60]
Starts Inch Mark with `./start` on data of its own. Senders and server share this machine's cores. The
rate is what was asked for if the senders kept up; the answer times are those of single posts. Exit
code 1 if a line is lost or stored twice.
"""

from __future__ import annotations

import argparse
import http.client
import json
import statistics
import sys
import threading
import time

import psycopg
from tests.tools.faults import tool

from bench.running import Running, running

SOURCES, BATCH, WALK, PATIENCE_S = 4, 250, 1, 300.0


class Sender(threading.Thread):
    """Posts the lines of one source at a rate, batch after batch on one connection."""

    def __init__(self, app: Running, token: str, number: int, rate: float, seconds: float) -> None:
        super().__init__()
        self.app, self.token, self.source = app, token, f"bench-{number}"
        self.rig, self.rate, self.seconds = "ABC"[number % 3], rate, seconds
        self.posted, self.times = 0, list[float]()

    def run(self) -> None:
        line = http.client.HTTPConnection("127.0.0.1", self.app.port, timeout=60)
        headers = {"Authorization": f"Bearer {self.token}", "Content-Type": "application/json"}
        began = time.monotonic()
        while self.posted < self.rate * self.seconds:
            time.sleep(max(began + self.posted / self.rate - time.monotonic(), 0))
            first = self.posted + 1
            lines = [
                f"rx rig={self.rig} seq={n} rssi=-{80 + n % 9} snr=4.5"
                for n in range(first, first + BATCH)
            ]
            body = {"source": self.source, "start": "1", "first": first, "lines": lines,
                    "constants": {"stop": str(1 + int(self.source[-1]))}}  # fmt: skip
            asked = time.monotonic()
            line.request("POST", f"/api/walks/{WALK}/lines", json.dumps(body), headers)
            answer = line.getresponse()
            told = answer.read()
            assert answer.status == 200, (answer.status, told[:200])
            self.times.append(time.monotonic() - asked)
            self.posted += BATCH
        self.took = time.monotonic() - began


def stored(app: Running) -> tuple[int, int, int]:
    """Return lines, frames and different frames of the bench's sources."""
    asked = """
        SELECT (SELECT sum(line_count) FROM walk_framefile WHERE source LIKE 'bench-%'),
               count(*), count(DISTINCT (f.file_id, f.seq))
        FROM walk_frame f JOIN walk_framefile l ON l.id = f.file_id WHERE l.source LIKE 'bench-%' AND f.heard
    """
    with psycopg.connect((app.folder / "database-url").read_text().strip()) as line:
        row = line.execute(asked).fetchone()
    return int(row[0] or 0), int(row[1]), int(row[2])


def main() -> int:
    """Post, wait, count."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rate", type=float, default=2000)
    parser.add_argument("--seconds", type=float, default=60)
    asked = parser.parse_args()
    with running() as app:
        token = tool(app, "access_token", "demo", "bench").split()[-1]
        share = asked.rate / SOURCES
        senders = [Sender(app, token, i, share, asked.seconds) for i in range(SOURCES)]
        for one in senders:
            one.start()
        for one in senders:
            one.join()
        posted = sum(one.posted for one in senders)
        took = max(one.took for one in senders)
        until = time.monotonic() + PATIENCE_S
        while stored(app) != (posted, posted, posted) and time.monotonic() < until:
            time.sleep(1)
        lines, frames, different = stored(app)
        times = sorted(t for one in senders for t in one.times)
    print(f"{posted / took:.0f} lines a second for {took:.0f} s; a post of {BATCH}: "
          f"p50 {1000 * statistics.median(times):.0f} ms, p95 {1000 * times[int(0.95 * len(times))]:.0f} ms")  # fmt: skip
    print(
        f"{posted} lines posted, {lines} kept, {frames} frames: {posted - different} lost, {frames - different} twice"
    )
    return 0 if lines == frames == different == posted else 1


if __name__ == "__main__":
    sys.exit(main())
