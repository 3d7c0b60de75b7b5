"""Import a log and `\\copy` its rows into the same table of frames, empty and with 50 million in it.

Usage: .venv/bin/python -m bench.standing_frames [--rows 1000000] [--standing 50000000]
The standing frames belong to visits of their own and are laid in by the server itself, past its
keys. Every import brings its log to a study of its own.
"""

from __future__ import annotations

import argparse
import subprocess
import tempfile
import time
from pathlib import Path

from bench.database import scratch_database
from bench.import_frames import IMPORT, PREPARE, run, write_log

COLUMNS = "visit_id,line_number,pass_number,seq,heard,time,rssi_dbm,snr_db,noise_dbm,source"
STEP = 5_000_000


def prepare(environment: dict, log: Path, number: int) -> str:
    """Return the file of a log received in a study of its own."""
    code = PREPARE.replace('make_user("bench")', f'make_user("bench{number}")')
    return run(environment, code, str(log))


def lay_in(url: str, standing: int) -> None:
    """Put frames into the table, 100 000 to a visit of the first log's."""
    import psycopg

    with psycopg.connect(url, autocommit=True) as connection:
        connection.execute("SET session_replication_role = replica")
        for start in range(0, standing, STEP):
            connection.execute(
                "INSERT INTO walk_frame (visit_id, file_id, line_number, pass_number, seq, heard,"
                " time, rssi_dbm, snr_db, noise_dbm, source) SELECT -1 - n / 100000,"
                " -1 - n / 1000000, n, 0, n %% 100000, true, now(), -90, 12.25, -117, ''"
                " FROM generate_series(%s::bigint, %s::bigint) AS n",
                [start, start + min(STEP, standing - start) - 1],
            )
        connection.execute("ANALYZE walk_frame")
        connection.execute("CHECKPOINT")


def compared(environment: dict, url: str, folder: Path, number: int) -> str:
    """Return a line: seconds of an import and of a copy of its rows under another file's number."""
    imported = prepare(environment, folder / "million.csv", 2 * number)
    frames, took, _ = run(environment, IMPORT, imported).split()
    other = prepare(environment, folder / "million.csv", 2 * number + 1)
    out, psql = folder / "rows.csv", ["psql", "-qX", url, "-v", "ON_ERROR_STOP=1", "-c"]
    chosen = f"SELECT {other}, {COLUMNS} FROM walk_frame WHERE file_id = {imported}"
    subprocess.run([*psql, f"\\copy ({chosen}) TO '{out}' CSV"], check=True)
    subprocess.run([*psql, "CHECKPOINT"], check=True)
    began = time.perf_counter()
    subprocess.run([*psql, f"\\copy walk_frame (file_id,{COLUMNS}) FROM '{out}' CSV"], check=True)
    copied = time.perf_counter() - began
    return f"{int(frames):,} frames: import {float(took):.1f} s, copy {copied:.1f} s, ratio {float(took) / copied:.2f}"


def main() -> None:
    """Print both."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--standing", type=int, default=50_000_000)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as name, scratch_database() as (url, environment):
        folder = Path(name)
        folder.chmod(0o755)  # psql may run as another user
        write_log(folder / "million.csv", asked.rows)
        print("empty table,", compared(environment, url, folder, 1), flush=True)
        lay_in(url, asked.standing)
        print(
            f"{asked.standing:,} frames in it,", compared(environment, url, folder, 2), flush=True
        )


if __name__ == "__main__":
    main()
