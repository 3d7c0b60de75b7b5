"""Debian packages and the virtual environment, installed only where they are missing."""

from __future__ import annotations

import ctypes
import hashlib
import os
import shutil
import subprocess
import sys
from pathlib import Path

from launch.say import StopError, say

ROOT = Path(__file__).resolve().parent.parent
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
REASONS = {
    "postgresql": "the study's data live in PostgreSQL",
    "chromium": "the browser tests drive the real interface",
    "mosquitto": "the bridge is tried against a real MQTT broker",
    "libatomic1": "the driver of the browser tests links to it",
    "libpango-1.0-0": "reports are set as PDF with it",
    "libpangoft2-1.0-0": "reports are set as PDF with it",
    "libharfbuzz-subset0": "only the letters a report uses are put into it",
    "poppler-utils": "the tests look at the pages of a report",
    "python3-venv": "the app's libraries are kept apart from the machine's",
}


def need_python() -> None:
    """Refuse a Python that is too old."""
    if sys.version_info < (3, 11):
        raise StopError(f"Inch Mark needs Python 3.11 or newer; this is {sys.version.split()[0]}.")


def postgres_bin() -> Path | None:
    """Return the folder of the newest PostgreSQL server programs, None if there are none."""
    folders = sorted(
        Path("/usr/lib/postgresql").glob("*/bin"), key=lambda p: float(p.parent.name), reverse=True
    )
    for folder in folders:
        if (folder / "initdb").exists() and (folder / "postgres").exists():
            return folder
    found = shutil.which("initdb")
    folder = Path(os.path.realpath(found)).parent if found else None
    return folder if folder and (folder / "postgres").exists() else None


def need_postgres() -> Path:
    """Return the server programs' folder, installing Debian's package if it is missing."""
    folder = postgres_bin()
    if folder is None:
        install("postgresql")
        folder = postgres_bin()
    if folder is None:
        raise StopError(
            "PostgreSQL was installed, but its server programs were not found under /usr/lib/postgresql."
        )
    return folder


def need_chromium() -> None:
    """Install Debian's Chromium, and what the program that drives it links to, if missing."""
    if not Path("/usr/bin/chromium").exists():
        install("chromium")
    try:
        ctypes.CDLL("libatomic.so.1")
    except OSError:
        install("libatomic1")


def need_mosquitto() -> None:
    """Install Debian's MQTT broker if it is missing; tests start it on loopback."""
    if not Path("/usr/sbin/mosquitto").exists() and not shutil.which("mosquitto"):
        install("mosquitto")


def need_pango() -> None:
    """Install the libraries that set a report as PDF, those that are missing."""
    for library, package in (
        ("libpango-1.0.so.0", "libpango-1.0-0"),
        ("libpangoft2-1.0.so.0", "libpangoft2-1.0-0"),
        ("libharfbuzz-subset.so.0", "libharfbuzz-subset0"),
    ):
        try:
            ctypes.CDLL(library)
        except OSError:
            install(package)


def need_poppler() -> None:
    """Install what turns the pages of a PDF into pictures and text, if missing."""
    if not shutil.which("pdftoppm"):
        install("poppler-utils")


def install(package: str) -> None:
    """Install a Debian package as root, or say what to run."""
    sudo: list[str] = []
    if os.geteuid() != 0:
        sudo = ["sudo", "-n"]
        if (
            not shutil.which("sudo")
            or subprocess.run([*sudo, "true"], capture_output=True).returncode
        ):
            raise StopError(
                f"{package} is missing: {REASONS[package]}. Run this once, then start again:\n    sudo apt-get install {package}"
            )
    if not shutil.which("apt-get"):
        raise StopError(
            f"{package} is missing: {REASONS[package]}. Install it with this system's package manager."
        )
    say(f"Installing {package}: {REASONS[package]} …")
    quiet = {
        "env": {**os.environ, "DEBIAN_FRONTEND": "noninteractive"},
        "stdout": subprocess.DEVNULL,
    }
    subprocess.run([*sudo, "apt-get", "-qq", "update"], **quiet)
    done = subprocess.run([*sudo, "apt-get", "-qq", "-y", "install", package], **quiet)
    if done.returncode:
        raise StopError(
            f"apt-get could not install {package}. Its own words are above; {REASONS[package]}."
        )


def need_environment(*, check: bool) -> None:
    """Make `.venv` from the pinned and hashed requirements, unless it holds them already."""
    names = ["run.txt", "check.txt"] if check else ["run.txt"]
    files = [ROOT / "requirements" / name for name in names]
    stamps = {f: hashlib.sha256(f.read_bytes() + sys.version.encode()).hexdigest() for f in files}
    missing = [f for f in files if _stamp(f) != stamps[f]]
    if not PYTHON.exists() or (missing and missing[0] == files[0]):
        _make_venv()
        missing = files
    for file in missing:
        say(f"Installing the libraries of requirements/{file.name} …")
        pip = [
            str(PYTHON),
            "-m",
            "pip",
            "install",
            "--quiet",
            "--disable-pip-version-check",
            "--require-hashes",
        ]
        if subprocess.run([*pip, "-r", str(file)]).returncode:
            raise StopError(
                f"The libraries of {file} could not be installed. Is there a network? pip's words are above."
            )
        (VENV / f"{file.name}.stamp").write_text(stamps[file])
    _put_source_on_path()


def _stamp(file: Path) -> str:
    stamp = VENV / f"{file.name}.stamp"
    return stamp.read_text() if stamp.exists() else ""


def _make_venv() -> None:
    say("Making .venv …")
    if subprocess.run(
        [sys.executable, "-m", "venv", "--clear", str(VENV)], stdout=subprocess.DEVNULL
    ).returncode:
        install("python3-venv")
        if subprocess.run([sys.executable, "-m", "venv", "--clear", str(VENV)]).returncode:
            raise StopError("The virtual environment could not be made; Python's words are above.")


def _put_source_on_path() -> None:
    """Make `inchmark` importable and runnable from the environment without a build step."""
    site = next((VENV / "lib").glob("python3.*")) / "site-packages"
    (site / "inchmark.pth").write_text(f"{ROOT / 'src'}\n")
    command = VENV / "bin" / "inchmark"
    command.write_text(
        f"#!{PYTHON}\nimport sys\n\nfrom inchmark.cli import main\n\nsys.exit(main())\n",
        encoding="utf-8",
    )
    command.chmod(0o755)
