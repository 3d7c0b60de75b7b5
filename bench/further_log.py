"""A further log into visits that hold many frames, against the same log into visits that hold none.

Usage: .venv/bin/python -m bench.further_log [--rows 40000] [--standing 3000000]
Both in one run, on a scratch database; the standing frames come as one log of the same 40 visits.
"""

from __future__ import annotations

import argparse
import tempfile
from pathlib import Path

from bench.database import scratch_database
from bench.import_frames import IMPORT, PREPARE, run, write_log

FURTHER = """
import sys
from inchmark.people.models import User
from inchmark.walk.models import Walk
from inchmark.walk.services.receive import receive
user, walk = User.objects.latest("pk"), Walk.objects.latest("pk")
with open(sys.argv[1], "rb") as file:
    blocks = iter(lambda: file.read(1 << 20), b"")
    print(receive(walk, name="further.csv", blocks=blocks, by=user, queue=False).file.pk)
"""


def write_later(path: Path, rows: int) -> None:
    """Write a log whose counters and day are others than those of the standing frames."""
    write_log(path, rows)
    path.write_text(path.read_text().replace("2026-11-14T", "2026-11-15T"))


def main() -> None:
    """Print seconds of the standing log, the further one, and the further one alone."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=40_000)
    parser.add_argument("--standing", type=int, default=3_000_000)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        write_log(folder / "standing.csv", asked.standing)
        write_later(folder / "further.csv", asked.rows)
        with scratch_database() as (_, environment):
            took = _seconds(environment, PREPARE, folder / "standing.csv")
            beside = _seconds(environment, FURTHER, folder / "further.csv")
        with scratch_database() as (_, environment):
            alone = _seconds(environment, PREPARE, folder / "further.csv")
    print(f"{asked.standing:,} frames into empty visits: {took:.1f} s")
    print(f"{asked.rows:,} frames beside them: {beside:.2f} s; into empty visits: {alone:.2f} s")
    millions = asked.standing / 1e6
    print(f"each million that stands there costs {(beside - alone) / millions:.2f} s")


def _seconds(environment: dict, receive: str, log: Path) -> float:
    file_id = run(environment, receive, str(log))
    return float(run(environment, IMPORT, file_id).split()[1])


if __name__ == "__main__":
    main()
