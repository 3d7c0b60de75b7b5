"""`./check`: set up, then prove it. A failed step stops it and is the last thing printed."""

from __future__ import annotations

import argparse
import os
import subprocess
import sys
import time

from launch.cluster import Cluster, keep_secret
from launch.machine import (
    PYTHON,
    ROOT,
    need_chromium,
    need_environment,
    need_mosquitto,
    need_pango,
    need_poppler,
    need_postgres,
    need_python,
)
from launch.say import StopError, say, stop
from launch.start import app_environment

VAR = ROOT / "var" / "check"
BIN = PYTHON.parent
PARTS = ("lint", "core", "web", "browser", "kills")
AT_ONCE = "2"  # test processes: the machine has two cores


def main() -> int:
    """Run all parts, or the named ones."""
    parser = argparse.ArgumentParser(
        prog="./check", description="Prove that Inch Mark works on this machine."
    )
    parser.add_argument("parts", nargs="*", help=f"some of {', '.join(PARTS)}; all without")
    parts = parser.parse_args().parts or list(PARTS)
    if set(parts) - set(PARTS):
        parser.error(f"parts are {', '.join(PARTS)}")
    cluster = None
    try:
        need_python()
        url = os.environ.get("INCHMARK_DATABASE_URL")
        if not url:
            cluster = Cluster(VAR / "postgres", need_postgres(), durable=False)
        _need_packages(parts)
        need_environment(check=True)
        keep_secret(VAR / "secret-key")
        url = cluster.start() if cluster else url
        return _run(parts, _environment(url or ""))
    except StopError as why:
        stop(str(why))
        return 1
    except KeyboardInterrupt:
        return 130
    finally:
        if cluster:
            cluster.stop()


def _need_packages(parts: list[str]) -> None:
    if "browser" in parts:
        need_chromium()
    if "core" in parts:
        need_mosquitto()
    if {"web", "browser"} & set(parts):
        need_pango()
        need_poppler()


def _environment(url: str) -> dict[str, str]:
    return app_environment(url, VAR) | {
        "PYTHONWARNINGS": "default",
        "DJANGO_SETTINGS_MODULE": "inchmark.config.settings.test",
        "COVERAGE_FILE": str(VAR / "coverage"),
        "PATH": f"{BIN}{os.pathsep}{os.environ['PATH']}",
    }


def _steps(part: str) -> list[tuple[str, list[str]]]:
    """Return name and command of each step of a part."""
    pytest = [str(PYTHON), "-m", "pytest", "-q", "-n", AT_ONCE]
    if part == "lint":
        return [
            ("rules", [str(BIN / "ruff"), "check", "."]),
            ("format", [str(BIN / "ruff"), "format", "--check", "."]),
            ("scripts", [str(BIN / "oxlint"), "--deny-warnings", "src/inchmark"]),
            ("import contracts", [str(BIN / "lint-imports"), "--no-cache"]),
            ("types", [str(BIN / "mypy")]),
            ("templates", [str(BIN / "djlint"), "src", "--lint", "--quiet"]),
            ("migrations", [str(PYTHON), "manage.py", "makemigrations", "--check", "--dry-run"]),
            ("vendored files", [str(PYTHON), "requirements/vendor.py", "--verify"]),
        ]
    if part == "core":
        plain = ["-c", "tests/core/pytest.ini", "--rootdir", "."]
        covered = ["--cov=inchmark.core", "--cov-branch", "--cov-report=term:skip-covered"]
        return [
            (
                "core, without Django or a database",
                [*pytest, *plain, *covered, "--cov-fail-under=95", "tests/core"],
            ),
            ("formats, devices", [*pytest, "tests/formats", "tests/devices"]),
            ("reference tables", [str(BIN / "inchmark"), "reference", "tests/reference"]),
        ]
    if part == "web":
        return [
            (
                "rooms",
                [
                    *pytest,
                    "tests",
                    "--ignore=tests/browser",
                    "--ignore=tests/core",
                    "--ignore=tests/formats",
                    "--ignore=tests/devices",
                ],
            )
        ]
    if part == "kills":
        return [("hard kills, a few", [str(PYTHON), "-m", "tests.tools.kills", "4"])]
    return [("browser", [*pytest, "tests/browser"])]


def _run(parts: list[str], environment: dict[str, str]) -> int:
    began = time.monotonic()
    for part in PARTS:
        for name, command in _steps(part) if part in parts else ():
            say(f"\n== {part}: {name}")
            code = subprocess.run(
                command, cwd=ROOT, env=environment, stdin=subprocess.DEVNULL
            ).returncode
            if code:
                stop(f"FAILED {part}: {name} (exit {code})")
                return 1
    say(
        f"\nAll of it passed, in {time.monotonic() - began:.0f} s: {', '.join(p for p in PARTS if p in parts)}"
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
