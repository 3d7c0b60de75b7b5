"""The lines of any console log as text: UTF-8, UTF-16 or Windows-1252, in bounded memory."""

from __future__ import annotations

import codecs
from collections.abc import Iterable, Iterator
from itertools import chain

from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.lines import Line, raw_lines

_NOT_TEXT = (
    (b"PK\x03\x04", "a zip archive or a workbook. Unpack it, or export the sheet as CSV"),
    (b"\x1f\x8b", "compressed with gzip. Unpack it first"),
    (b"%PDF", "a PDF. Export the log as text"),
    (b"SQLite format 3", "a database file. Export the log as text"),
)
_UTF16 = {codecs.BOM_UTF16_LE: "utf-16-le", codecs.BOM_UTF16_BE: "utf-16-be"}


def console_lines(blocks: Iterable[bytes]) -> Iterator[Line]:
    """Yield the lines of a log as text, numbered from 1; blank ones are passed over.

    A byte that is no text in any of the three encodings stands as U+FFFD, so that the line can be
    judged and shown. A line over 64 kB is cut there.

    Raises
    ------
    UnreadableFileError
        The file is an archive, a workbook, or no text at all.
    """
    stream = iter(blocks)
    start = next(stream, b"")
    for signature, words in _NOT_TEXT:
        if start.startswith(signature):
            raise UnreadableFileError(f"This file is {words}.")
    wide = _wide(start)
    pieces: Iterable[bytes] = chain([start], stream)
    if wide:
        pieces = _as_utf8(pieces, wide)
    elif start[:4096].count(b"\x00") > max(8, len(start[:4096]) // 4):
        raise UnreadableFileError("This file is not text (it holds zero bytes). Export it as text.")
    for number, (raw, _) in enumerate(raw_lines(pieces), 1):
        text = _text(raw.removeprefix(codecs.BOM_UTF8) if number == 1 else raw)
        if text and not text.isspace():
            yield Line(number, text)


def _wide(start: bytes) -> str:
    """Return the encoding of UTF-16 text, with or without its mark; empty for any other."""
    if start[:2] in _UTF16:
        return _UTF16[start[:2]]
    head = start[:400]
    zeros = head[1::2].count(0), head[0::2].count(0)
    if len(head) >= 8 and max(zeros) > 0.4 * len(head) / 2 and min(zeros) < 0.05 * len(head):
        return "utf-16-le" if zeros[0] > zeros[1] else "utf-16-be"
    return ""


def _as_utf8(blocks: Iterable[bytes], encoding: str) -> Iterator[bytes]:
    decoder = codecs.getincrementaldecoder(encoding)("replace")
    for block in blocks:
        yield decoder.decode(block).removeprefix("\ufeff").encode("utf-8", "replace")
    yield decoder.decode(b"", final=True).encode("utf-8", "replace")


def _text(raw: bytes) -> str:
    try:
        return raw.decode("utf-8")
    except UnicodeDecodeError:
        return raw.decode("cp1252", "replace")
