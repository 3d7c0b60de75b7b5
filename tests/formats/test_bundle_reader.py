"""Zips that anybody may have made: each trick refused with what is wrong, before anything is believed."""

import hashlib
import io
import json
import stat
import zipfile

import pytest

from inchmark.formats.bundle import reader
from inchmark.formats.bundle.manifest import FORMAT
from inchmark.formats.bundle.writer import BundleWriter
from inchmark.formats.errors import UnreadableFileError

ABOUT = {"title": "t", "made_at": "now", "code_version": "1", "model_version": "4"}


def made(**parts):
    out = io.BytesIO()
    with BundleWriter(out, **ABOUT) as bundle:
        bundle.add_json("study.json", {"rows": {}})
        for name, body in parts.items():
            bundle.add(name, body)
    return out.getvalue()


def forged(entries, *, listed=None, **manifest):
    """A zip of entries (name or ZipInfo, body) with a manifest that fits them."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        parts = []
        for name, body in entries:
            archive.writestr(name, body)
            named = name.filename if isinstance(name, zipfile.ZipInfo) else name
            digest = hashlib.sha256(body).hexdigest()
            parts.append({"name": named, "size": len(body), "sha256": digest})
        told = {"format": FORMAT, "version": 1, "parts": parts if listed is None else listed}
        archive.writestr("manifest.json", json.dumps(told | ABOUT | manifest))
    return out.getvalue()


def check(data):
    with reader.opened(io.BytesIO(data)) as bundle:
        return bundle.names


STUDY = ("study.json", b"{}")


def test_what_was_written_is_read_back():
    with reader.opened(io.BytesIO(made(**{"logs/a": b"x" * 10}))) as bundle:
        assert bundle.names == ["study.json", "logs/a"]
        assert bundle.read("logs/a") == b"x" * 10
        assert bundle.study() == {"rows": {}}
        with pytest.raises(UnreadableFileError, match="not in it"):
            bundle.read("logs/b")


def linked():
    info = zipfile.ZipInfo("logs/link")
    info.external_attr = (stat.S_IFLNK | 0o777) << 16
    return info


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "no zip|not a zip"),
        (b"PK\x03\x04" + b"\0" * 100, "not a zip"),
        (forged([STUDY, ("../etc/passwd", b"x")]), "leads out"),
        (forged([STUDY, ("/etc/passwd", b"x")]), "leads out"),
        (forged([STUDY, ("logs\\..\\x", b"x")]), "leads out"),
        (forged([STUDY, ("C:x", b"x")]), "leads out"),
        (forged([STUDY, (linked(), b"/etc/passwd")]), "a link"),
        (forged([STUDY, ("bomb", b"\0" * 30_000_000)]), "zip bomb"),
        (forged([STUDY], listed=[]), "not in its manifest"),
        (forged([("logs/a", b"x")]), "study.json is missing"),
        (forged([STUDY], version=2), "version 2"),
        (forged([STUDY], format="other"), "not of a study bundle"),
        (forged([STUDY], more=1), "manifest.json"),
        (forged([STUDY], listed=[{"name": "study.json", "size": 2, "sha256": "0" * 64}]), "edited"),
        (forged([STUDY], listed=[{"name": "study.json", "size": "2", "sha256": "0" * 64}]), "size"),
    ],
)  # fmt: skip
def test_each_trick_is_refused_with_what_is_wrong(data, said):
    with pytest.raises(UnreadableFileError, match=said):
        check(data)


def test_a_missing_and_a_doubled_part_are_named():
    two = forged([STUDY, ("logs/a", b"x")])
    source = zipfile.ZipFile(io.BytesIO(two))
    kept = {name: source.read(name) for name in source.namelist() if name != "logs/a"}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, body in kept.items():
            archive.writestr(name, body)
    with pytest.raises(UnreadableFileError, match="logs/a is missing"):
        check(out.getvalue())
    with pytest.warns(UserWarning, match="Duplicate name"):
        doubled = forged([STUDY, ("logs/a", b"x"), ("logs/a", b"y")])
    with pytest.raises(UnreadableFileError, match="two files of one name"):
        check(doubled)


def test_damaged_bytes_are_refused():
    data = bytearray(made(**{"logs/a": bytes(range(256)) * 40}))
    data[data.index(b"logs/a") + 60] ^= 0xFF
    with pytest.raises(UnreadableFileError, match=r"cannot be unpacked|edited or damaged"):
        check(bytes(data))


def test_a_zip_that_lies_about_its_sizes_is_held_to_them(monkeypatch):
    data = bytearray(made(**{"logs/a": b"y" * 5000}))
    at = data.rindex(b"logs/a") - 46  # its entry in the directory
    data[at + 24 : at + 28] = (10).to_bytes(4, "little")
    with pytest.raises(UnreadableFileError):
        check(bytes(data))


def test_too_much_in_all_is_refused(monkeypatch):
    monkeypatch.setattr(reader, "MOST_BYTES", 1000)
    with pytest.raises(UnreadableFileError, match="unpacks to more"):
        check(made(**{"logs/a": b"ab" * 600}))
    monkeypatch.setattr(reader, "MOST_FILES", 1)
    with pytest.raises(UnreadableFileError, match="files; a bundle holds"):
        check(made())
