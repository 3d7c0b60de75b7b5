"""Tokens to checked columns: whole blocks at once, and line by line only where a block fails."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats
from inchmark.formats.frame_log.columns import (
    HEARD_WORDS,
    MAX_TEXT,
    NUMBERS,
    REQUIRED,
    TEXT,
    read_time,
)
from inchmark.formats.frame_log.lines import BadLine, Line
from inchmark.formats.frame_log.writer import unguarded

_SPLIT_UNTIL = 48  # rows; below this a failing block is read line by line


@dataclass(slots=True)
class FrameBlock:
    """Frames of consecutive lines as columns of one length; numbers NaN where not logged."""

    line: NDArray[np.int64]
    seq: NDArray[np.int64]
    heard: NDArray[np.bool_]
    text: dict[str, Sequence[str]]
    number: dict[str, Floats]
    time_s: Floats

    def __len__(self) -> int:
        """Return the number of frames."""
        return len(self.line)


@dataclass(slots=True)
class Row:
    """One line as tokens by column name, ready to be checked."""

    line: Line
    tokens: Sequence[str]


@dataclass(slots=True)
class CheckedRows:
    """Blocks in line order and the lines that were refused."""

    blocks: list[FrameBlock] = field(default_factory=list)
    bad: list[BadLine] = field(default_factory=list)


def check_rows(names: Sequence[str], rows: Sequence[Row]) -> CheckedRows:
    """Return the frames of rows whose tokens stand in the order of `names`."""
    result = CheckedRows()
    _check(names, rows, result)
    return result


def _check(names: Sequence[str], rows: Sequence[Row], result: CheckedRows) -> None:
    if not rows:
        return
    try:
        result.blocks.append(_block(names, rows))
        return
    except ValueError as wrong:
        if len(rows) == 1:
            result.bad.append(BadLine(rows[0].line.number, rows[0].line.text, str(wrong)))
            return
    step = max(len(rows) // 8, 1) if len(rows) > _SPLIT_UNTIL else 1
    for start in range(0, len(rows), step):
        _check(names, rows[start : start + step], result)


def _block(names: Sequence[str], rows: Sequence[Row]) -> FrameBlock:
    """Return the rows as one block; raise ValueError with the sentence for the first bad value."""
    columns = dict(zip(names, zip(*(row.tokens for row in rows), strict=True), strict=True))
    text = {name: _texts(name, columns[name]) for name in TEXT if name in columns}
    numbers = {name: _numbers(name, columns[name]) for name in NUMBERS if name in columns}
    missing = np.isnan(numbers["seq"])
    if missing.any():
        raise ValueError("seq is empty. A frame needs its counter value.")
    count = len(rows)
    heard = _heard(columns["heard"]) if "heard" in columns else np.ones(count, dtype=bool)
    time_s = _times(columns["time"]) if "time" in columns else np.full(count, np.nan)
    return FrameBlock(
        line=np.fromiter((row.line.number for row in rows), dtype=np.int64, count=count),
        seq=numbers.pop("seq").astype(np.int64),
        heard=heard,
        text=text,
        number=numbers,
        time_s=time_s,
    )


def _texts(name: str, tokens: Sequence[str]) -> Sequence[str]:
    distinct = set(tokens)
    guarded = {token: plain for token in distinct if (plain := unguarded(token)) != token}
    if guarded:
        tokens = [guarded.get(token, token) for token in tokens]
        distinct = set(tokens)
    if name in REQUIRED and "" in distinct:
        raise ValueError(f"{name} is empty. Every frame names its rig and its stop.")
    for token in distinct:
        if len(token) > MAX_TEXT or not token.isprintable():
            raise ValueError(
                f"{name} is “{token[:40]}”; it must be at most {MAX_TEXT} printable characters."
            )
    return tokens


def _numbers(name: str, tokens: Sequence[str]) -> Floats:
    column = NUMBERS[name]
    blanks = tokens.count("")
    if blanks == len(tokens):
        return np.full(len(tokens), np.nan)
    blank = np.zeros(len(tokens), dtype=bool)
    if blanks:
        blank = np.fromiter((not token for token in tokens), dtype=bool, count=len(tokens))
    try:
        values = np.array([token or "nan" for token in tokens]).astype(np.float64)
    except ValueError:
        values = np.full(len(tokens), np.nan)
    fine = (
        (values >= column.low)
        & (values <= column.high)
        & (not column.whole or values == np.floor(values))
    )
    for i in np.flatnonzero(~(fine | blank)).tolist():
        column.check(name, tokens[i])  # raises with the sentence
    if np.any(~(fine | blank)):  # numpy refused a token that Python reads
        return np.array([np.nan if b else float(t) for t, b in zip(tokens, blank, strict=True)])
    return values


def _heard(tokens: Sequence[str]) -> NDArray[np.bool_]:
    words = {token: HEARD_WORDS.get(token.lower()) for token in set(tokens)}
    for token, value in words.items():
        if value is None:
            raise ValueError(f"heard is “{token[:40]}”; it must be 1 or 0.")
    return np.fromiter((words[token] for token in tokens), dtype=bool, count=len(tokens))


def _times(tokens: Sequence[str]) -> Floats:
    return np.fromiter(
        (read_time(token) if token else np.nan for token in tokens),
        dtype=np.float64,
        count=len(tokens),
    )
