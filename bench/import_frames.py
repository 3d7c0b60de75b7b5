"""Import a million frames against `\\copy` of the same rows into an equal table, in the same run.

Usage: .venv/bin/python -m bench.import_frames [--rows 1000000]
Makes a database of its own beside the configured one and drops it again. The worker is a process
of its own, as in use; its peak memory is the kernel's figure (VmHWM).
"""

import subprocess
import sys
import time
from pathlib import Path

from bench.database import ROOT, scratch_rows

PREPARE = """
import datetime, sys
from inchmark.people.services import make_user
from inchmark.studies.services import start_study
from inchmark.shelf.models import Rig
from inchmark.shelf.services.rigs import save_rig
from inchmark.plan.models import Stop
from inchmark.plan.services import save_stop
from inchmark.walk.services.outing import start_walk
from inchmark.walk.services.receive import receive
user = make_user("bench")
study = start_study(by=user, title="bench", needed_m=700)
for letter in "ABCD":
    save_rig(study, Rig(letter=letter, module="Dulse L8", spreading_factor=7, antenna="stub coil"))
for i in range(10):
    save_stop(study, Stop(label=str(i + 1), distance_m=30 * 1.5**i))
walk = start_walk(study, walked_on=datetime.date(2026, 11, 14))
with open(sys.argv[1], "rb") as file:
    blocks = iter(lambda: file.read(1 << 20), b"")
    received = receive(walk, name="million.csv", blocks=blocks, by=user, queue=False)
print(received.file.pk)
"""
IMPORT = """
import sys, time
from inchmark.walk.services.ingest import import_frames
began = time.perf_counter()
file = import_frames(int(sys.argv[1]))
took = time.perf_counter() - began
peak = next(line for line in open("/proc/self/status") if line.startswith("VmHWM")).split()[1]
print(file.frame_count, took, int(peak) / 1024)
"""
BOOT = "import django; django.setup()\n"


def write_log(path: Path, rows: int) -> None:
    """Write a log of 40 visits with the columns a board would send."""
    import numpy as np

    random = np.random.default_rng(1)
    per_visit = rows // 40
    with path.open("w") as file:
        file.write("rig,stop,seq,heard,time,rssi_dbm,snr_db,noise_dbm\n")
        for visit in range(40):
            rig, stop = "ABCD"[visit % 4], visit // 4 + 1
            level = -40 - 30 * np.log10(30 * 1.5 ** (stop - 1)) / 1.3 + visit % 4
            levels = np.round(random.normal(level, 3, per_visit)).astype(int)
            lines = [_line(rig, stop, i, level) for i, level in enumerate(levels.tolist())]
            file.write("\n".join(lines) + "\n")


def _line(rig: str, stop: int, i: int, level: int) -> str:
    clock = f"2026-11-14T{8 + i // 3600 % 12:02d}:{i // 60 % 60:02d}:{i % 60:02d}Z"
    if level > -111:
        return f"{rig},{stop},{i},1,{clock},{level},{level + 117}.25,-117"
    return f"{rig},{stop},{i},0,{clock},,,-117"


def run(environment: dict, code: str, argument: str, *, whole: bool = False) -> str:
    """Run a piece of the app in a process of its own; return what it printed, the last line or all."""
    done = subprocess.run(
        [sys.executable, "-c", BOOT + code, argument],
        cwd=ROOT,
        env=environment,
        check=True,
        stdout=subprocess.PIPE,
        text=True,
    )
    return done.stdout if whole else done.stdout.strip().splitlines()[-1]


def copy_seconds(url: str, out: Path) -> float:
    """Time `\\copy` of the rows into an equal table: same columns, keys, checks, indexes."""
    import psycopg

    with psycopg.connect(url, autocommit=True) as connection:
        connection.execute("CREATE TABLE equal_frame (LIKE walk_frame INCLUDING ALL)")
        for column, table in (("visit_id", "walk_visit"), ("file_id", "walk_framefile")):
            connection.execute(
                f"ALTER TABLE equal_frame ADD FOREIGN KEY ({column}) REFERENCES {table}"
            )
    columns = "visit_id,file_id,line_number,seq,heard,time,rssi_dbm,snr_db,noise_dbm,source"
    psql = ["psql", "-qX", url, "-v", "ON_ERROR_STOP=1", "-c"]
    subprocess.run(
        [*psql, f"\\copy (SELECT {columns} FROM walk_frame ORDER BY id) TO '{out}' CSV"], check=True
    )
    subprocess.run([*psql, "CHECKPOINT"], check=True)
    began = time.perf_counter()
    subprocess.run([*psql, f"\\copy equal_frame ({columns}) FROM '{out}' CSV"], check=True)
    return time.perf_counter() - began


def imported(
    environment: dict, url: str, folder: Path, file_id: str
) -> tuple[int, float, float, float]:
    """Import a kept log: frames, seconds, seconds of `\\copy` of the same rows, peak memory [MB]."""
    frames, took, peak = run(environment, IMPORT, file_id).split()
    return int(frames), float(took), copy_seconds(url, folder / "rows.csv"), float(peak)


def main() -> None:
    """Print the ratio."""
    with scratch_rows(__doc__) as (rows, folder, url, environment):
        log = folder / "million.csv"
        write_log(log, rows)
        file_id = run(environment, PREPARE, str(log))
        frames, took, copied, peak = imported(environment, url, folder, file_id)
        print(f"{frames:,} frames, {log.stat().st_size / 1e6:.0f} MB of CSV")
        print(f"import, with summaries: {took:.1f} s")
        print(f"\\copy into an equal table: {copied:.1f} s")
        print(f"ratio import / copy: {took / copied:.2f} (wanted: at most 4)")
        print(f"peak memory of the importing process: {peak:.0f} MB (wanted: at most 300)")


if __name__ == "__main__":
    main()
