"""Bytes to numbered lines, in bounded memory.

A line of ten megabytes costs no more than its limit.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from inchmark.formats.errors import UnreadableFileError

MAX_LINE_BYTES = 65_536
KEPT_CHARACTERS = 2_000
_UTF8_BOM = b"\xef\xbb\xbf"
_SIGNATURES = (
    (
        b"PK\x03\x04",
        "a zip archive or a workbook, whatever its name says. Unpack it, or export the sheet as CSV",
    ),
    (b"\x1f\x8b", "compressed with gzip. Unpack it first"),
    (b"%PDF", "a PDF. Export the log as CSV"),
    (b"SQLite format 3", "a database file. Export the log as CSV"),
    (b"\xff\xfe", "UTF-16 text. Save it again as UTF-8"),
    (b"\xfe\xff", "UTF-16 text. Save it again as UTF-8"),
)


@dataclass(frozen=True, slots=True)
class BadLine:
    """A line kept because it could not be read: number from 1, its text, and why.

    Both are cut to a length that can be shown, and hold nothing a database or a page cannot.
    """

    number: int
    text: str
    reason: str

    def __post_init__(self) -> None:
        """Make text and reason fit to be stored and shown."""
        object.__setattr__(self, "text", _showable(self.text))
        object.__setattr__(self, "reason", _showable(self.reason))


@dataclass(frozen=True, slots=True)
class Line:
    """A line as text, without its end."""

    number: int
    text: str


def check_signature(start: bytes) -> None:
    """Raise UnreadableFileError if the first bytes are not those of a text file."""
    for signature, words in _SIGNATURES:
        if start.startswith(signature):
            raise UnreadableFileError(f"This file is {words}.")
    head = start[:4096]
    # a few zero bytes further down are a power cut; in the first line or everywhere it is no text
    if b"\x00" in head.split(b"\n")[0] or head.count(b"\x00") > len(head) // 20:
        raise UnreadableFileError(
            "This file is not text (it holds zero bytes). A frame log is CSV or JSON Lines in UTF-8."
        )


def numbered_lines(blocks: Iterable[bytes]) -> Iterator[Line | BadLine]:
    """Yield the lines of a byte stream; blank ones are skipped, LF, CRLF and CR all end a line."""
    number, first = 0, True
    for raw, dropped in raw_lines(blocks):
        number += 1
        if first:
            raw, first = raw.removeprefix(_UTF8_BOM), False
        if dropped:
            size = (len(raw) + dropped) / 1e6
            yield BadLine(
                number,
                _kept(raw),
                f"The line is {size:.1f} MB long; a frame line is under {MAX_LINE_BYTES // 1024} kB. Line ends may have been lost: export the log again.",
            )
            continue
        try:
            text = raw.decode("utf-8")
        except UnicodeDecodeError as wrong:
            yield BadLine(
                number,
                _kept(raw),
                f"Byte {wrong.start + 1} is not UTF-8. Save the file as UTF-8, or correct this line.",
            )
            continue
        if "\x00" in text:
            yield BadLine(
                number, text, "The line holds zero bytes, as after a power cut. Mend or empty it."
            )
        elif text and not text.isspace():
            yield Line(number, text)


def _kept(raw: bytes) -> str:
    return raw[: KEPT_CHARACTERS * 2].decode("utf-8", "backslashreplace")


def _showable(text: str) -> str:
    shown = text[:KEPT_CHARACTERS].replace("\x00", "\N{SYMBOL FOR NULL}")
    return shown.encode("utf-8", "replace").decode("utf-8")  # lone surrogates


def raw_lines(blocks: Iterable[bytes]) -> Iterator[tuple[bytes, int]]:
    """Yield (line, bytes dropped beyond the limit)."""
    rest, dropped, after_cr = b"", 0, False
    for block in filter(None, blocks):  # an empty piece between CR and LF parts no line
        if after_cr and block.startswith(b"\n"):
            block = block[1:]
        after_cr = block.endswith(b"\r")
        if b"\r" in block:
            block = block.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
        pieces = (rest + block).split(b"\n")
        for piece in pieces[:-1]:
            yield piece[:MAX_LINE_BYTES], dropped + max(len(piece) - MAX_LINE_BYTES, 0)
            dropped = 0
        rest = pieces[-1]
        if len(rest) > MAX_LINE_BYTES:
            dropped += len(rest) - MAX_LINE_BYTES
            rest = rest[:MAX_LINE_BYTES]
    if rest or dropped:
        yield rest, dropped
