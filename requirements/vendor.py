"""Refresh the static files that ship with the app, from the npm packages named in the manifest.

`python requirements/vendor.py` fetches with `npm pack` and writes files, hashes and the table;
with `--verify` it compares what is there with the manifest and fetches nothing.
"""

import argparse
import hashlib
import json
import subprocess
import sys
import tarfile
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
MANIFEST = ROOT / "requirements" / "vendor.json"
TABLE = ROOT / "THIRD_PARTY.md"
TABLE_HEAD = """# Files by others that ship with Inch Mark

Written by `python requirements/vendor.py` from `requirements/vendor.json`;
every folder keeps its licence beside the files.

| package | version | licence | folder | file | sha256 |
|---|---|---|---|---|---|
"""


def folder_of(package: dict) -> Path:
    """Return the folder the package's files live in."""
    short = package["name"].split("/")[-1]
    return ROOT / package["into"] / f"{short}-{package['version']}"


def fetch(package: dict) -> dict[str, str]:
    """Unpack the named files of one package and return file name -> sha256."""
    folder = folder_of(package)
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as scratch:
        spec = f"{package['name']}@{package['version']}"
        subprocess.run(["npm", "pack", "--silent", spec], cwd=scratch, check=True)  # noqa: S603, S607
        archive = next(Path(scratch).glob("*.tgz"))
        with tarfile.open(archive) as tar:
            for wanted in package["files"]:
                member, _, target = wanted.partition(" as ")
                source = tar.extractfile(f"package/{member}")
                if source is None:
                    raise SystemExit(f"{spec} has no file {member}")
                path = folder / (target or Path(member).name)
                path.parent.mkdir(parents=True, exist_ok=True)
                path.write_bytes(source.read())
    return hashes(package)


def hashes(package: dict) -> dict[str, str]:
    """Return file name -> sha256 of what lies in the package's folder."""
    folder = folder_of(package)
    return {
        path.relative_to(folder).as_posix(): hashlib.sha256(path.read_bytes()).hexdigest()
        for path in sorted(folder.rglob("*"))
        if path.is_file()
    }


def write_table(packages: list[dict]) -> None:
    """Write THIRD_PARTY.md."""
    rows = []
    for package in packages:
        folder = folder_of(package).relative_to(ROOT)
        for name, digest in package["sha256"].items():
            rows.append(
                f"| {package['name']} | {package['version']} | {package['licence']} "
                f"| {folder} | {name} | `{digest}` |"
            )
    TABLE.write_text(TABLE_HEAD + "\n".join(rows) + "\n")


def main() -> int:
    """Refresh or verify."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--verify", action="store_true")
    wanted = parser.parse_args()
    packages = json.loads(MANIFEST.read_text())
    if wanted.verify:
        wrong = [p["name"] for p in packages if hashes(p) != p["sha256"]]
        print(
            "\n".join(f"{name}: files differ from the manifest" for name in wrong)
            or "vendored files match"
        )
        return 1 if wrong else 0
    for package in packages:
        package["sha256"] = fetch(package)
    MANIFEST.write_text(json.dumps(packages, indent=2) + "\n")
    write_table(packages)
    return 0


if __name__ == "__main__":
    sys.exit(main())
