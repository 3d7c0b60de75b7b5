"""A scratch database beside the configured one, dropped at the end."""

import argparse
import os
import secrets
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent


@contextmanager
def scratch_database() -> Iterator[tuple[str, dict[str, str]]]:
    """Yield the address of an empty, migrated database and the environment to run the app in."""
    import psycopg

    var = Path(os.environ.get("INCHMARK_VAR", ROOT / "var"))
    base = os.environ.get("INCHMARK_DATABASE_URL") or (var / "database-url").read_text().strip()
    name = f"bench_{secrets.token_hex(4)}"
    url = base.rsplit("/", 1)[0] + f"/{name}"
    environment = {
        **os.environ,
        "INCHMARK_DATABASE_URL": url,
        "INCHMARK_VAR": str(var),
        "PYTHONPATH": str(ROOT / "src"),
        "DJANGO_SETTINGS_MODULE": "inchmark.config.settings.production",
        "OMP_NUM_THREADS": "1",
        "OPENBLAS_NUM_THREADS": "1",
    }
    with psycopg.connect(base, autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name}")
        try:
            prepare = [sys.executable, "manage.py", "prepare", "--no-demo"]
            subprocess.run(
                prepare, cwd=ROOT, env=environment, check=True, stdout=subprocess.DEVNULL
            )
            yield url, environment
        finally:
            connection.execute(f"DROP DATABASE {name} WITH (FORCE)")


@contextmanager
def scratch_rows(words: str | None) -> Iterator[tuple[int, Path, str, dict]]:
    """Yield the rows asked for on the command line, a folder, and a database's address and environment."""
    parser = argparse.ArgumentParser(description=words)
    parser.add_argument("--rows", type=int, default=1_000_000)
    rows = parser.parse_args().rows
    with tempfile.TemporaryDirectory() as folder, scratch_database() as (url, environment):
        os.chmod(folder, 0o755)  # psql may run as another user
        yield rows, Path(folder), url, environment
