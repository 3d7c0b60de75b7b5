"""Time a second `./start`: from the command to the first page, on data of its own.

Usage: .venv/bin/python -m bench.second_start [RUNS]
"""

from __future__ import annotations

import http.client
import os
import signal
import socket
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
PAGE = "/sign-in/"
LONGEST_S = 120


def first_page(folder: str, port: int) -> float:
    """Return the seconds from the command to the first page, and end what was started."""
    environment = {
        name: value
        for name, value in os.environ.items()
        if name not in ("INCHMARK_DATABASE_URL", "DJANGO_SETTINGS_MODULE", "PYTHONPATH")
    } | {"INCHMARK_VAR": folder}
    began = time.perf_counter()
    running = subprocess.Popen(
        ["./start", "--port", str(port), "--no-demo"],
        cwd=ROOT,
        env=environment,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        while time.perf_counter() - began < LONGEST_S:
            if answers(port):
                return time.perf_counter() - began
            time.sleep(0.02)
        raise SystemExit("no page within two minutes")
    finally:
        running.send_signal(signal.SIGTERM)
        running.wait(60)


def answers(port: int) -> bool:
    """Tell whether the page is answered."""
    line = http.client.HTTPConnection("127.0.0.1", port, timeout=LONGEST_S)
    try:
        line.request("GET", PAGE)
        return line.getresponse().status == 200
    except OSError:
        return False
    finally:
        line.close()


def main() -> None:
    """Print the first start and the median of the later ones."""
    runs = int(sys.argv[1]) if len(sys.argv) > 1 else 5
    with socket.create_server(("127.0.0.1", 0)) as free:
        port = free.getsockname()[1]
    with tempfile.TemporaryDirectory() as folder:
        print(f"first start: {first_page(folder, port):.1f} s")
        later = [first_page(folder, port) for _ in range(runs)]
    print(
        f"second start, median of {runs}: {statistics.median(later):.2f} s "
        f"({min(later):.2f} to {max(later):.2f})"
    )


if __name__ == "__main__":
    main()
