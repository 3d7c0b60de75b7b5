"""A stream of bytes to blocks of frames and the lines that could not be read."""

from __future__ import annotations

import csv
import json
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import chain, islice

from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.columns import ALIASES, COLUMNS, REQUIRED
from inchmark.formats.frame_log.lines import BadLine, Line, check_signature, numbered_lines
from inchmark.formats.frame_log.rows import FrameBlock, Row, check_rows

BLOCK_LINES = 20_000
_DELIMITERS = (",", ";", "\t")


@dataclass(slots=True)
class LogPiece:
    """A run of lines: its frames, its bad lines, and the last line number read."""

    blocks: list[FrameBlock] = field(default_factory=list)
    bad: list[BadLine] = field(default_factory=list)
    last_line: int = 0
    rows: list[Row] = field(default_factory=list)

    def texts(self) -> dict[int, str]:
        """Return the lines as they stood in the log, by number."""
        return {row.line.number: row.line.text for row in self.rows}


def read_frame_log(
    blocks: Iterable[bytes], *, corrections: dict[int, str] | None = None
) -> Iterator[LogPiece]:
    """Yield the log piece by piece.

    Parameters
    ----------
    blocks
        The file's bytes in pieces of any size.
    corrections
        Line number -> text that stands in place of that line; an empty text leaves it out.

    Raises
    ------
    UnreadableFileError
        The file is no text, is empty, or its header lacks a needed column.
    """
    stream = iter(blocks)
    start = next(stream, b"")
    check_signature(start)
    lines = _corrected(numbered_lines(chain([start], stream)), corrections or {})
    first = next(lines, None)
    if first is None:
        raise UnreadableFileError(
            "The file is empty. A frame log starts with a header line, or is JSON Lines."
        )
    if isinstance(first, BadLine):
        raise UnreadableFileError(f"Line {first.number} should be the header. {first.reason}")
    if first.text.lstrip().startswith("{"):
        splitter: _JsonSplitter | _CsvSplitter = _JsonSplitter()
        lines = chain([first], lines)
    else:
        splitter = _CsvSplitter(first.text)
    while part := list(islice(lines, BLOCK_LINES)):
        yield _piece(splitter, part)


def is_frame_log(start: bytes) -> bool:
    """Tell whether a log begins as one of ours: a header with rig, stop and seq, or such objects."""
    first = next(
        (line for line in start.removeprefix(b"\xef\xbb\xbf").splitlines() if line.strip()), b""
    )
    text = first.decode("utf-8", "replace")
    if not text.lstrip().startswith("{"):
        delimiter = max(_DELIMITERS, key=text.count)
        names = {name.strip().strip('"').lower() for name in text.split(delimiter)}
        return set(REQUIRED) <= names
    try:
        found = json.loads(text)
    except ValueError:
        return False
    return isinstance(found, dict) and set(REQUIRED) <= set(found)


def _corrected(
    lines: Iterator[Line | BadLine], corrections: dict[int, str]
) -> Iterator[Line | BadLine]:
    for line in lines:
        if line.number not in corrections:
            yield line
        elif corrections[line.number].strip():
            yield Line(line.number, corrections[line.number])


def _piece(splitter: _JsonSplitter | _CsvSplitter, lines: Sequence[Line | BadLine]) -> LogPiece:
    piece = LogPiece(last_line=lines[-1].number)
    rows: list[Row] = []
    for line in lines:
        if isinstance(line, BadLine):
            piece.bad.append(line)
            continue
        try:
            rows.append(Row(line, splitter.tokens(line.text)))
        except ValueError as wrong:
            piece.bad.append(BadLine(line.number, line.text, str(wrong)))
    checked = check_rows(splitter.names, rows)
    piece.rows = rows
    piece.blocks = checked.blocks
    piece.bad = sorted(piece.bad + checked.bad, key=lambda bad: bad.number)
    return piece


class _CsvSplitter:
    """Tokens of a CSV line in the order of the header's known columns."""

    def __init__(self, header: str) -> None:
        self.delimiter = max(_DELIMITERS, key=header.count)
        found = [name.strip().strip('"').lower() for name in header.split(self.delimiter)]
        found = [ALIASES.get(name, name) for name in found]
        self.width = len(found)
        self.names = [name for name in found if name in COLUMNS]
        self.pick = [i for i, name in enumerate(found) if name in COLUMNS]
        missing = [name for name in REQUIRED if name not in self.names]
        if missing:
            raise UnreadableFileError(
                f"The header has no column {' and no column '.join(missing)}. A frame log needs rig, stop and seq; this one starts with “{header[:80]}”."
            )
        twice = {name for name in self.names if self.names.count(name) > 1}
        if twice:
            raise UnreadableFileError(
                f"The header names {', '.join(sorted(twice))} twice. Keep one of them."
            )
        self.all_known = self.pick == list(range(self.width))

    def tokens(self, text: str) -> Sequence[str]:
        """Return the tokens; raise ValueError where their number does not fit the header."""
        quoted = '"' in text
        tokens = self._unquoted(text) if quoted else text.split(self.delimiter)
        if len(tokens) != self.width:
            hint = (
                " A decimal comma splits a number in two; write a point."
                if (self.delimiter == "," and len(tokens) > self.width)
                else " The line may have been cut off."
            )
            raise ValueError(
                f"The line has {len(tokens)} fields, the header has {self.width}.{hint}"
            )
        if not self.all_known:
            tokens = [tokens[i] for i in self.pick]
        return tokens if " " not in text else [token.strip() for token in tokens]

    def _unquoted(self, text: str) -> list[str]:
        try:
            return next(csv.reader([text], delimiter=self.delimiter, strict=True))
        except csv.Error:
            raise ValueError("A quotation mark is opened and not closed on this line.") from None


class _JsonSplitter:
    """Tokens of a JSON object in the order of all columns."""

    names = list(COLUMNS)

    def tokens(self, text: str) -> Sequence[str]:
        """Return the tokens.

        Raise ValueError where the line is no JSON object with the needed keys.
        """
        try:
            found = json.loads(text, parse_constant=lambda name: name)
        except (
            ValueError,
            RecursionError,
        ):  # ValueError: no JSON, or a number of thousands of digits
            raise ValueError("The line is not JSON. It may have been cut off.") from None
        if not isinstance(found, dict):
            raise ValueError("The line is JSON but not an object with names and values.")
        named = {ALIASES.get(str(k).lower(), str(k).lower()): v for k, v in found.items()}
        missing = [name for name in REQUIRED if named.get(name) in (None, "")]
        if missing:
            raise ValueError(f"The line has no {' and no '.join(missing)}.")
        return [_token(named.get(name)) for name in COLUMNS]


def _token(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "1" if value else "0"
    if isinstance(value, (dict, list)):
        raise ValueError("A value is a list or an object; each column holds one value.")
    return str(value).strip()
