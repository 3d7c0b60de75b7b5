"""A line taken apart: its time stamp, and parts that each have a name, a text and perhaps a unit.

A name is what stands before a value: a key, a column's head, the word before a number, or, where
nothing names it, the first word of the line and a position (`RX/4[2]`). So one list of names tells
of every kind of line: JSON, cells, keys with values, words around numbers.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, NamedTuple

from inchmark.core.recipe.text import MOST_CHARACTERS

JSON, CELLS, WORDS, POSITION = "JSON", "cells", "words", "NMEA"
MOST_PARTS = 200
# parts whose text says what a line tells of, like `evt=tx_done`
EVENTS = frozenset(
    [
        "event",
        "evt",
        "ev",
        "type",
        "kind",
        "op",
        "dir",
        "direction",
        "state",
        "status",
        "what",
        "action",
    ]
)
DELIMITERS = ("\t", ";", ",", "|")
UNITS = {
    "dbm": "dBm", "db": "dB", "%": "%", "ms": "ms", "s": "s", "us": "us", "µs": "us", "v": "V",
    "mv": "mV", "c": "°C", "°c": "°C", "m": "m", "km": "km", "mhz": "MHz", "khz": "kHz", "hz": "Hz",
    "bytes": "bytes", "byte": "bytes", "ma": "mA", "sec": "s",
}  # fmt: skip
# words after which a name stands without any sign between, as in “from node-2”, “stop B”
TAKES = frozenset(
    [
        "from",
        "via",
        "by",
        "node",
        "board",
        "rig",
        "dev",
        "device",
        "unit",
        "gateway",
        "gw",
        "stop",
        "place",
        "point",
        "sender",
        "src",
        "station",
        "von",
    ]
)
_SMALL_WORDS = frozenset(
    [
        "is",
        "of",
        "at",
        "with",
        "no",
        "nr",
        "the",
        "a",
        "an",
        "and",
        "to",
        "was",
        "in",
        "by",
        "on",
        "for",
        "from",
        "dbm",
        "db",
    ]
)


class Part(NamedTuple):
    """One value of a line: what it is called there, as written, and the unit behind it."""

    name: str
    text: str
    unit: str = ""


@dataclass(frozen=True, slots=True)
class Pieces:
    """A line taken apart; `words` are those that are no values, in small letters."""

    form: str
    parts: tuple[Part, ...]
    words: frozenset[str] = frozenset()
    stamp: str = ""
    delimiter: str = ""

    def first(self, name: str) -> Part | None:
        """Return the part of a name."""
        return next((part for part in self.parts if part.name == name), None)


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
    delimiter = _delimiter(rest)
    if delimiter:
        return _positional(rest, delimiter, stamp, names_first=names_first)
    return _words(rest, stamp)


def _stamped(text: str) -> tuple[str, str]:
    """Return the moment a line begins with, and the rest."""
    found = _STAMP.match(text)
    if found and (found.end() == len(text) or _ends_stamp(text, found.end())):
        return found["stamp"], text[found.end() :]
    found = _UPTIME.match(text)
    if found:
        return f"+{found['stamp']}{found['unit'] or ''}", text[found.end() :]
    found = _LATER.search(text[:64])  # after a level or a host's name
    if found:
        return found["stamp"], text[: found.start()] + " " + text[found.end() :]
    return "", text


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
    return Pieces(JSON, parts, words=words | _told_by(parts), stamp=stamp)


def _told_by(parts: Sequence[Part]) -> frozenset[str]:
    """Return the words of parts that say what a line tells of."""
    found = (part.text for part in parts if part.name.lower() in EVENTS)
    return frozenset(word for text in found for word in re.findall(r"[a-z]+", text.lower()))


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


# ----------------------------------------------------------------------------------------- cells


class Heads:
    """The columns of a table as its header names them."""

    def __init__(self, names: Sequence[str], delimiter: str) -> None:
        self.names, self.delimiter = tuple(names), delimiter

    def cells(self, text: str) -> Pieces | None:
        """Return the line as cells under these heads; None where their number does not fit."""
        cells = split_cells(text, self.delimiter)
        if len(cells) != len(self.names):
            return None
        named = zip(self.names, cells, strict=True)
        parts = tuple(_measured(name, cell) for name, cell in named if cell)
        return Pieces(CELLS, parts[:MOST_PARTS], words=_told_by(parts), delimiter=self.delimiter)


def split_cells(text: str, delimiter: str) -> list[str]:
    """Return the cells of a line, quotes taken off; a space as delimiter stands for runs of them."""
    if delimiter == " ":
        return text.split()
    if '"' not in text:
        return [cell.strip() for cell in text.split(delimiter)]
    cells, cell, quoted = [], "", False
    for piece in re.split(f'(["{re.escape(delimiter)}])', text):
        if piece == '"':
            quoted = not quoted
        elif piece == delimiter and not quoted:
            cells.append(cell.strip())
            cell = ""
        else:
            cell += piece
    return [*cells, cell.strip()]


_MEASURED = re.compile(r"([-+]?\d[\d.,]*)\s*([A-Za-zµ°%]{1,5})")


def _measured(name: str, cell: str) -> Part:
    found = _MEASURED.fullmatch(cell)
    if found and (unit := UNITS.get(found[2].lower())):
        return Part(name, found[1], unit)
    return Part(name, cell[:400])


_KEYED = re.compile(r"[A-Za-zÀ-ÿ_#][\w .#/-]{0,40}[=:]\s*\S")
_SIMPLE = re.compile(r"[-+]?[\w.,:/+%°-]{0,64}|\"[^\"]{0,200}\"")


def _delimiter(text: str) -> str:
    """Return what parts a line's cells: three or more simple cells, and no keys among them."""
    for delimiter in DELIMITERS:
        if text.count(delimiter) < 2:
            continue
        cells = split_cells(text, delimiter)
        simple = sum(_SIMPLE.fullmatch(cell) is not None for cell in cells)
        keys = sum(_KEYED.match(cell) is not None for cell in cells)
        if len(cells) >= 3 and simple >= 0.7 * len(cells) and keys == 0 and _numbers(cells) >= 2:
            return delimiter
    if " " not in text and text.count(":") >= 3 and _numbers(text.split(":")) >= 2:
        return ":"
    cells = text.split()
    if len(cells) >= 3 and _numbers(cells) >= len(cells) - 1 and "=" not in text:
        return " "
    return ""


def _numbers(cells: Sequence[str]) -> int:
    return sum(1 for cell in cells if _NUMBER.fullmatch(cell))


def lead_of(text: str) -> tuple[str, int]:
    """Return the first cell of a line that names no keys, and how many cells it has."""
    _, rest = _stamped(text)
    delimiter = _delimiter(rest)
    cells = split_cells(rest, delimiter) if delimiter else [""]
    return cells[0], len(cells)


def _positional(text: str, delimiter: str, stamp: str, *, names_first: bool) -> Pieces:
    cells = split_cells(text, delimiter)
    lead = cells[0] if cells[0] and not _NUMBER.fullmatch(cells[0]) else ""
    # a lone letter or a name with a digit is somebody's, not a kind of line
    is_kind = re.fullmatch(r"[$+#<>!]*[A-Za-z][A-Za-z_+#<>:.-]{1,23}", lead) is not None
    head = lead.rstrip(":") if is_kind and not names_first else ""
    prefix = f"{head}/{len(cells)}"
    named = list(enumerate(cells, 1))
    parts = tuple(
        _measured(f"{prefix}[{i}]", cell) for i, cell in named if cell and not (head and i == 1)
    )
    words = frozenset(re.findall(r"[a-z]+", head.lower()))
    return Pieces(CELLS, parts[:MOST_PARTS], words=words, stamp=stamp, delimiter=delimiter)


# ----------------------------------------------------------------------------------------- words

_NUMBER = re.compile(
    r"[-+]?(?:0[xX][0-9a-fA-F]{1,16}|\d{1,20}(?:[.,]\d{1,12})?(?:[eE][-+]?\d{1,3})?)%?"
)
_TOKEN = re.compile(
    r"""(?P<quoted>"[^"]{0,400}"|'[^']{0,400}')
      | (?P<hex>(?:[0-9A-Fa-f]{2}(?:[ :-][0-9A-Fa-f]{2}){3,255})(?![\w]))
      | (?P<base64>[A-Za-z0-9+/]{6,400}={1,2}(?![\w=]))
      | (?P<number>(?<![\w.])[-+]?(?:0[xX][0-9a-fA-F]{1,16}|\d{1,20}(?:[.,]\d{1,12})?(?:[eE][-+]?\d{1,3})?)(?![\w.]?[A-Za-z0-9_]))
      | (?P<measured>(?<![\w.])[-+]?\d{1,12}(?:[.,]\d{1,12})?(?=(?:dBm|dB|DBM|ms|us|µs|mV|MHz|kHz|km|V|C|s|m)(?![\w])))
      | (?P<word>[A-Za-zÀ-ÿµ°_][\wÀ-ÿ.]*(?:-\w+)*|\d[\w]*(?:[-.]\w+)*)
      | (?P<sign>[^\s\w])""",
    re.VERBOSE,
)


def _words(text: str, stamp: str) -> Pieces:
    walk = _Walk(text)
    walk.run()
    parts = tuple(walk.parts)
    words = frozenset(piece for word in walk.words for piece in re.findall(r"[a-zà-ÿ]+", word))
    return Pieces(WORDS, parts, words=words | _told_by(parts), stamp=stamp)


class _Token(NamedTuple):
    kind: str
    text: str


class _Walk:
    """Goes over a line's tokens once, holding the words that may name the next value."""

    def __init__(self, text: str) -> None:
        found = (m for _, m in zip(range(600), _TOKEN.finditer(text), strict=False))
        self.tokens = [_Token(m.lastgroup or "", m.group()) for m in found]
        self.parts: list[Part] = []
        self.words: list[str] = []
        self.label: list[str] = []  # words since the last value
        self.last, self.again = "", 1  # what named the last value, and how often since
        self.seen: dict[str, int] = {}

    def run(self) -> None:
        """Fill parts and words."""
        i = 0
        while i < len(self.tokens) and len(self.parts) < MOST_PARTS:
            i = self._step(i)

    def _step(self, i: int) -> int:
        kind, text = self.tokens[i]
        if kind in ("number", "measured"):
            return self._value(i, text)
        if kind in ("quoted", "hex", "base64"):
            self._part(text.strip("\"'"))
            return i + 1
        if kind == "word":
            return self._word(i, text)
        if text == "#":
            self.label.append("#")
        elif text in ",;|" and self.label and not self._is(i + 1, "=:"):
            self.label = []
        return i + 1

    def _word(self, i: int, text: str) -> int:
        """Take a word: the value of a key, a name after “from” or “stop”, or a name to come."""
        if self._is(i - 1, "=:") and self.label and not self._is(i + 1, "=:"):
            return self._phrase(i)
        if self.label and _takes(self.label[-1].lower(), text):
            self.label = self.label[-1:]
            self._part(text)
            return i + 1
        if self._is(i + 1, "=:"):
            self.label = []
        self.label.append(text)
        self.words.append(text.lower())
        return i + 1

    def _is(self, i: int, signs: str) -> bool:
        return 0 <= i < len(self.tokens) and self.tokens[i].text in tuple(signs)

    def _value(self, i: int, text: str) -> int:
        following = self.tokens[i + 1] if i + 1 < len(self.tokens) else _Token("", "")
        unit = UNITS.get(following.text.lower(), "")
        if unit and not self._is(i + 2, "=:"):
            self._part(text, unit)
            return i + 2
        self._part(text)
        return i + 1

    def _phrase(self, i: int) -> int:
        """Take words after a key as its value, up to the next key or sign."""
        end = i + 1
        while end < len(self.tokens) and self.tokens[end].kind in ("word", "number"):
            if self._is(end + 1, "=:") or self.tokens[end].kind == "number":
                break
            end += 1
        if end < len(self.tokens) and self.tokens[end].kind == "number":
            # "Received: hello 12": the words belong to the number's name as well
            self._part(" ".join(t.text for t in self.tokens[i:end]))
            self.label = [t.text for t in self.tokens[i:end]]
            return end
        self._part(" ".join(t.text for t in self.tokens[i:end]))
        return end

    def _part(self, text: str, unit: str = "") -> None:
        name = _name_of(self.label)
        if not name:
            name = f"{self.last or 'value'}[{self.again + 1}]" if self.parts else "value"
            self.again += 1
        else:
            self.last, self.again = name, 1
        self.seen[name] = self.seen.get(name, 0) + 1
        if self.seen[name] > 1:
            name = f"{name}[{self.seen[name]}]"
        self.parts.append(Part(name, text[:400], unit))
        self.label = []


def _takes(word: str, following: str) -> bool:
    """Tell whether a name follows a word: any after “from”, one with a digit or a letter after “stop”."""
    if word not in TAKES:
        return False
    if any(c.isdigit() for c in following) or (len(following) == 1 and following.isupper()):
        return True
    return word == "from" and following.lower() not in _SMALL_WORDS


def _name_of(label: Sequence[str]) -> str:
    """Return the word that names a value: the last that says something."""
    telling = [word for word in label if word.lower() not in _SMALL_WORDS] or list(label)
    return telling[-1].lower() if telling else ""


def header_of(text: str) -> Heads | None:
    """Return the heads of a line that is all names; None where it is none."""
    for delimiter in (*DELIMITERS, " "):
        cells = split_cells(text, delimiter)
        if len(cells) < (3 if delimiter == " " else 2) or len(cells) > MOST_PARTS:
            continue
        named = [cell for cell in cells if re.match(r"[A-Za-zÀ-ÿµ_#]", cell)]
        if len(named) == len(cells) and len(set(cells)) == len(cells) and _short(cells):
            return Heads([cell.lower() for cell in cells], delimiter)
    return None


def _short(cells: Sequence[str]) -> bool:
    """Tell whether cells look like heads: short, and none a sentence or a key with its value."""
    return all(len(c) <= 40 and not _KEYED.match(c) and c.count(" ") <= 3 for c in cells)
