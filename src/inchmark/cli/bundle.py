"""`inchmark bundle check FILE`: whether a bundle is whole and as it was made, without the web."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from inchmark.formats.bundle.reader import Bundle, opened
from inchmark.formats.errors import UnreadableFileError


def add_parser(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """Add the command and its options."""
    parser = commands.add_parser("bundle", help="check a study's bundle")
    kinds = parser.add_subparsers(dest="what", required=True)
    check = kinds.add_parser("check", help="check that a bundle is whole and was not changed")
    check.add_argument("file", type=Path, metavar="FILE")
    check.add_argument("--json", action="store_true", help="print what is in it as JSON")
    parser.set_defaults(run=_check)


def _check(parsed: argparse.Namespace) -> int:
    with opened(parsed.file) as bundle:
        found = _summary(bundle)
    if parsed.json:
        print(json.dumps(found, indent=1))
        return 0
    print(f"{parsed.file.name}: whole, and as it was made on {found['made_at']}.")
    print(
        f"  {found['title']}, by Inch Mark {found['code_version']}, model {found['model_version']}"
    )
    print(f"  {found['parts']} parts, {found['bytes']:,} bytes; {found['frames']:,} frames")
    for kind, count in found["rows"].items():
        if count:
            print(f"  {count:6,} {kind}")
    return 0


def _summary(bundle: Bundle) -> dict[str, Any]:
    manifest, rows = bundle.manifest, bundle.study().get("rows")
    if not isinstance(rows, dict) or not all(isinstance(one, list) for one in rows.values()):
        raise UnreadableFileError("study.json holds no rows")
    frames = 0
    if "rows/frames.csv" in bundle.names:
        frames = sum(piece.count(b"\n") for piece in bundle.pieces("rows/frames.csv"))
    return {
        "title": manifest.title,
        "made_at": manifest.made_at,
        "code_version": manifest.code_version,
        "model_version": manifest.model_version,
        "parts": len(manifest.parts),
        "bytes": sum(part.size for part in manifest.parts),
        "frames": frames,
        "rows": {kind: len(one) for kind, one in rows.items()},
    }
