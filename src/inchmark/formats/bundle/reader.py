"""Opening a bundle that anybody may have made: nothing is unpacked to disk, nothing is believed.

Refused with a sentence: what is no zip, paths that lead out, links, encrypted or repeated files,
more than a bundle may hold (by what really comes out, whatever the zip claims), parts that are
missing, not listed, or changed.
"""

from __future__ import annotations

import hashlib
import json
import stat
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import IO, Any

from pydantic import ValidationError

from inchmark.formats.bundle.manifest import FORMAT, MANIFEST, STUDY, VERSION, Manifest
from inchmark.formats.errors import UnreadableFileError

MOST_FILES = 20_000
MOST_BYTES = 2 * 1024**3  # of all parts together, unpacked
MOST_JSON_BYTES = 256 * 1024**2
MOST_TIMES = 400  # a part may unpack to so many times its packed size; text hardly does
SMALL = 1024**2  # parts under it may be as regular as they like
PIECE = 1024**2


@dataclass(frozen=True, slots=True)
class Bundle:
    """An opened bundle whose parts are what its manifest says."""

    manifest: Manifest
    _zip: zipfile.ZipFile

    @property
    def names(self) -> list[str]:
        """Return the names of its parts."""
        return [part.name for part in self.manifest.parts]

    def read(self, name: str) -> bytes:
        """Return a part's bytes."""
        return b"".join(self.pieces(name))

    def pieces(self, name: str) -> Iterator[bytes]:
        """Yield a part's bytes piece by piece, never more than it says it holds."""
        info = self._info(name)
        yield from _pieces(self._zip, info)

    def study(self) -> dict[str, Any]:
        """Return the study's rows.

        Raises
        ------
        UnreadableFileError
            They are no JSON object, or too large or too deep.
        """
        return _json(self.read(STUDY), STUDY)

    def _info(self, name: str) -> zipfile.ZipInfo:
        try:
            return self._zip.getinfo(name)
        except KeyError:
            raise UnreadableFileError(f"the bundle names {name}, which is not in it") from None


@contextmanager
def opened(file: Path | IO[bytes]) -> Iterator[Bundle]:
    """Open a bundle and check every part of it.

    Raises
    ------
    UnreadableFileError
        It is no bundle, or not as it was made; the sentence says what is wrong.
    """
    try:
        archive = zipfile.ZipFile(file)
    except (zipfile.BadZipFile, zipfile.LargeZipFile, OSError, ValueError) as wrong:
        raise UnreadableFileError(
            f"this is no bundle: not a zip that can be read ({wrong})"
        ) from None
    with archive:
        _check_directory(archive)
        bundle = Bundle(_manifest(archive), archive)
        _check_parts(archive, bundle.manifest)
        yield bundle


def _check_directory(archive: zipfile.ZipFile) -> None:
    infos = archive.infolist()
    if len(infos) > MOST_FILES:
        raise UnreadableFileError(
            f"it holds {len(infos)} files; a bundle holds {MOST_FILES} at most"
        )
    names = [info.filename for info in infos]
    if len(set(names)) != len(names):
        raise UnreadableFileError("it holds two files of one name")
    if sum(info.file_size for info in infos) > MOST_BYTES:
        raise UnreadableFileError(_too_large())
    for info in infos:
        _check_entry(info)


def _check_entry(info: zipfile.ZipInfo) -> None:
    name = info.filename
    path = PurePosixPath(name)
    if path.is_absolute() or ".." in path.parts or "\\" in name or ":" in name or "\0" in name:
        raise UnreadableFileError(f"it holds a path that leads out of it: {name[:80]!r}")
    if stat.S_ISLNK(info.external_attr >> 16):
        raise UnreadableFileError(f"it holds a link instead of a file: {name[:80]!r}")
    if info.flag_bits & 1:
        raise UnreadableFileError(f"{name[:80]!r} is encrypted; a bundle is not")
    if info.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED):
        raise UnreadableFileError(f"{name[:80]!r} is packed in a way bundles are not (deflate)")
    if info.file_size > SMALL and info.file_size > MOST_TIMES * max(info.compress_size, 1):
        raise UnreadableFileError(
            f"{name[:80]!r} unpacks to more than {MOST_TIMES} times its size, as a zip bomb does"
        )


def _too_large() -> str:
    return f"it unpacks to more than {MOST_BYTES // 1024**2} MB, which a bundle may not"


def _manifest(archive: zipfile.ZipFile) -> Manifest:
    try:
        info = archive.getinfo(MANIFEST)
    except KeyError:
        raise UnreadableFileError(f"this is no bundle: {MANIFEST} is not in it") from None
    data = _json(b"".join(_pieces(archive, info)), MANIFEST)
    if data.get("format") != FORMAT:
        raise UnreadableFileError(f"{MANIFEST} is not of a study bundle")
    if data.get("version") != VERSION:
        raise UnreadableFileError(
            f"the bundle is of version {data.get('version')!r}; this installation reads version {VERSION}"
        )
    try:
        return Manifest.model_validate(data)
    except ValidationError as wrong:
        first = wrong.errors()[0]
        where = ".".join(str(one) for one in first["loc"])
        raise UnreadableFileError(f"{MANIFEST}: {where}: {first['msg']}") from None


def _check_parts(archive: zipfile.ZipFile, manifest: Manifest) -> None:
    listed = [part.name for part in manifest.parts]
    there = {name for name in archive.namelist() if name != MANIFEST and not name.endswith("/")}
    if len(set(listed)) != len(listed):
        raise UnreadableFileError(f"{MANIFEST} lists a part twice")
    if missing := sorted(set(listed) - there):
        raise UnreadableFileError(f"the bundle is not whole: {missing[0]} is missing")
    if more := sorted(there - set(listed)):
        raise UnreadableFileError(f"{more[0]} is in the bundle and not in its manifest")
    if STUDY not in there:
        raise UnreadableFileError(f"the bundle is not whole: {STUDY} is missing")
    for part in manifest.parts:
        digest, size = hashlib.sha256(), 0
        for piece in _pieces(archive, archive.getinfo(part.name)):
            digest.update(piece)
            size += len(piece)
        if size != part.size or digest.hexdigest() != part.sha256:
            raise UnreadableFileError(
                f"{part.name} is not as it was when the bundle was made: it was edited or damaged"
            )


def _pieces(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> Iterator[bytes]:
    """Yield what comes out of an entry; more than it declares is refused as it comes."""
    left = info.file_size
    try:
        with archive.open(info) as stream:
            while piece := stream.read(PIECE):
                left -= len(piece)
                if left < 0:
                    raise UnreadableFileError(f"{info.filename[:80]!r} holds more than it says")
                yield piece
    except (zipfile.BadZipFile, RuntimeError, NotImplementedError, EOFError, OSError) as wrong:
        raise UnreadableFileError(f"{info.filename[:80]!r} cannot be unpacked: {wrong}") from None
    except Exception as wrong:
        if type(wrong).__module__ == "zlib":
            raise UnreadableFileError(f"{info.filename[:80]!r} cannot be unpacked") from None
        raise


def _json(data: bytes, name: str) -> dict[str, Any]:
    if len(data) > MOST_JSON_BYTES:
        raise UnreadableFileError(f"{name} is too large")
    try:
        found = json.loads(data)
    except (ValueError, RecursionError):
        raise UnreadableFileError(f"{name} is no JSON that can be read") from None
    if not isinstance(found, dict):
        raise UnreadableFileError(f"{name} is no JSON object")
    return found
