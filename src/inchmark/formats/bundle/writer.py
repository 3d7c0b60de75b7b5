"""Writing a bundle: parts as they come, the manifest last."""

from __future__ import annotations

import hashlib
import json
import zipfile
from collections.abc import Iterable
from types import TracebackType
from typing import IO, Any

from inchmark.formats.bundle.manifest import FORMAT, MANIFEST, VERSION, Manifest, Part

EPOCH = (1980, 1, 1, 0, 0, 0)  # a zip's earliest time: a bundle of the same study is the same bytes


class BundleWriter:
    """A zip being written; parts are hashed as they go in."""

    def __init__(
        self, file: IO[bytes], *, title: str, made_at: str, code_version: str, model_version: str
    ) -> None:
        """Begin a bundle."""
        self._zip = zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, allowZip64=True)
        self._about = {
            "title": title, "made_at": made_at, "code_version": code_version,
            "model_version": model_version,
        }  # fmt: skip
        self._parts: list[Part] = []

    def __enter__(self) -> BundleWriter:
        """Return the writer itself."""
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        """Write the manifest, unless something went wrong."""
        if error is None:
            manifest = Manifest(format=FORMAT, version=VERSION, parts=self._parts, **self._about)
            with self._zip.open(_info(MANIFEST), "w") as out:
                out.write(manifest.model_dump_json(indent=1).encode())
        self._zip.close()

    def add(self, name: str, pieces: bytes | Iterable[bytes]) -> str:
        """Put a part in; return its name."""
        digest, size = hashlib.sha256(), 0
        with self._zip.open(_info(name), "w", force_zip64=True) as out:
            for piece in [pieces] if isinstance(pieces, bytes) else pieces:
                digest.update(piece)
                size += len(piece)
                out.write(piece)
        self._parts.append(Part(name=name, size=size, sha256=digest.hexdigest()))
        return name

    def add_json(self, name: str, value: Any) -> str:
        """Put a part in as JSON, NaN refused."""
        text = json.dumps(value, ensure_ascii=False, allow_nan=False, separators=(",", ":"))
        return self.add(name, text.encode())


def _info(name: str) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(name, EPOCH)
    info.compress_type = zipfile.ZIP_DEFLATED
    info.external_attr = 0o600 << 16
    return info
