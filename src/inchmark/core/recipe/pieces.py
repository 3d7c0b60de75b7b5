"""A line taken apart: its time stamp, and parts that each have a name, a text and perhaps a unit.

A name is what stands before a value: a key, a column's head, the word before a number, or, where
nothing names it, the first word of the line and a position (`RX/4[2]`). So one list of names tells
of every kind of line: JSON, cells, keys with values, words around numbers.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from inchmark.core.recipe.cells import Heads, delimiter_of, positional, split_cells
from inchmark.core.recipe.parts import JSON, MOST_PARTS, POSITION, Part, Pieces, told_by
from inchmark.core.recipe.text import MOST_CHARACTERS
from inchmark.core.recipe.words import in_words

# a moment at the start of a line: date and time, time alone, seconds or ms since the start
_STAMP = re.compile(
    r"""\s*[\[(<]?\s*(?P<stamp>
        \d{4}[-/.]\d{1,2}[-/.]\d{1,2}(?:[T _,]{1,2}\d{1,2}:\d{2}(?::\d{2}(?:[.,:]\d{1,9})?)?\s?(?:Z|UTC|[+-]\d{2}:?\d{2})?)?
      | \d{1,2}[-/.]\d{1,2}[-/.]\d{4}[T _,]{1,2}\d{1,2}:\d{2}(?::\d{2}(?:[.,:]\d{1,9})?)?
      | \d{1,4}:\d{2}:\d{2}(?:[.,:]\d{1,9})?
      | \d{1,2}:\d{2}
    )\s*[\])>]?\s*(?:->|[|:;,-](?=\s))?\s*""",
    re.VERBOSE,
)
_UPTIME = re.compile(
    r"\s*(?:[EWIDV]\s)?[\[(]\s*(?P<stamp>\d{1,12}(?:\.\d{1,9})?)\s?(?P<unit>ms|us|s)?\s*[\])]:?\s*"
)
_LATER = re.compile(r"(?<![\w.])(?P<stamp>\d{1,2}:\d{2}:\d{2}(?:[.,]\d{1,9})?)(?![\w])[\])>]?:?")
_NMEA = re.compile(r"\$G[A-Z]{4},[^*$]{5,100}\*[0-9A-Fa-f]{2}")


def taken_apart(text: str, heads: Heads | None = None, *, names_first: bool = False) -> Pieces:
    """Return a plain line taken apart; `heads` names the columns where a header did.

    With `names_first` the first cell of a line is a value like the others, and names no kind.
    """
    text = text[:MOST_CHARACTERS]
    if "$G" in text and (found := _NMEA.search(text)):
        stamp, _ = _stamped(text[: found.start()])
        return Pieces(POSITION, (Part("nmea", found.group()),), stamp=stamp)
    if heads is not None and (cells := heads.cells(text)) is not None:
        return cells
    start = text.find("{")
    if start >= 0 and (found_json := _json(text, start)) is not None:
        return found_json
    stamp, rest = _stamped(text)
    delimiter = delimiter_of(rest)
    if delimiter:
        return positional(rest, delimiter, stamp, names_first=names_first)
    return in_words(rest, stamp)


def _stamped(text: str) -> tuple[str, str]:
    """Return the moment a line begins with, and the line without it."""
    found = _STAMP.match(text)
    if found and (found.end() == len(text) or _ends_stamp(text, found.end())):
        return found["stamp"], _blanked(text, 0, found.end())
    found = _UPTIME.match(text)
    if found:
        return f"+{found['stamp']}{found['unit'] or ''}", _blanked(text, 0, found.end())
    found = _LATER.search(text[:64])  # after a level or a host's name
    if found:
        return found["stamp"], _blanked(text, found.start(), found.end())
    return "", text


def _blanked(text: str, start: int, end: int) -> str:
    """Return the text with a stretch of it blank, so that all else stays in its place."""
    return text[:start] + " " * (end - start) + text[end:]


def _ends_stamp(text: str, at: int) -> bool:
    before, after = text[at - 1], text[at]
    return not (before.isalnum() and after.isalnum()) and after not in ".:"


# ------------------------------------------------------------------------------------------ JSON


def _json(text: str, start: int) -> Pieces | None:
    end = text.rfind("}")
    if end < start:
        return None
    try:
        found = json.loads(text[start : end + 1])
    except (ValueError, RecursionError):
        return None
    if not isinstance(found, dict):
        return None
    stamp, rest = _stamped(text[:start])
    words = frozenset(word.lower() for word in re.findall(r"[A-Za-z]+", rest)[:20])
    parts = tuple(_flat(found))[:MOST_PARTS]
    spoken = [(part, in_words(part.text, "")) for part in parts if _speaks(part)]
    inner = tuple(
        Part(f"{part.name}.{one.name}", one.text, one.unit)
        for part, pieces in spoken
        for one in pieces.parts
    )
    words = words.union(told_by(parts), *(pieces.words for _, pieces in spoken))
    return Pieces(JSON, (*parts, *inner)[:MOST_PARTS], words=words, stamp=stamp)


def _speaks(part: Part) -> bool:
    """Tell whether a text in JSON is a line of its own, like a message with figures among words."""
    text = part.text
    lettered = any(c.isalpha() for c in text) and any(c.isdigit() for c in text)
    return lettered and (" " in text or "=" in text) and not _STAMP.match(text)


def _flat(value: Any, name: str = "", depth: int = 0) -> Iterator[Part]:
    if isinstance(value, dict) and depth < 8:
        for key, inner in value.items():
            yield from _flat(inner, f"{name}.{key}" if name else str(key), depth + 1)
    elif isinstance(value, list) and depth < 8:
        for i, inner in enumerate(value[:32]):
            yield from _flat(inner, f"{name}[{i}]", depth + 1)
    elif value is not None and not isinstance(value, dict | list):
        text = str(value).lower() if isinstance(value, bool) else str(value)
        yield Part(name, text[:400])


_LISTED = re.compile(r"(.*?)\[(\d+)\](.*)")


def expanded(pieces: Pieces) -> list[Pieces]:
    """Return one set of pieces for each element of a list in a JSON line, else the pieces.

    So one transmission that several receivers heard becomes a row for each; names in the list read
    `rx[].rssi`.
    """
    if pieces.form != JSON:
        return [pieces]
    shared: list[Part] = []
    by_index: dict[str, list[Part]] = {}
    for part in pieces.parts:
        found = _LISTED.fullmatch(part.name)
        if found:
            by_index.setdefault(found[2], []).append(
                Part(f"{found[1]}[]{found[3]}", part.text, part.unit)
            )
        else:
            shared.append(part)
    if not by_index:
        return [pieces]
    return [replace(pieces, parts=(*own, *shared)) for own in by_index.values()]


def lead_of(text: str) -> tuple[str, int]:
    """Return the first cell of a line that names no keys, and how many cells it has."""
    _, rest = _stamped(text)
    delimiter = delimiter_of(rest)
    cells = split_cells(rest, delimiter) if delimiter else [""]
    return cells[0], len(cells)
