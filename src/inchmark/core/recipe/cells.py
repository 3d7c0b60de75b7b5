"""Cells: tables with heads, and lines whose values only their places name."""

from __future__ import annotations

import re
from collections.abc import Sequence

from inchmark.core.recipe.parts import CELLS, MOST_PARTS, NUMBER, UNITS, Part, Pieces, told_by

DELIMITERS = ("\t", ";", ",", "|")


class Heads:
    """The columns of a table as its header names them."""

    def __init__(self, names: Sequence[str], delimiter: str) -> None:
        self.names, self.delimiter = tuple(names), delimiter

    def cells(self, text: str) -> Pieces | None:
        """Return the line as cells under these heads; None where their number does not fit."""
        cells = split_cells(text, self.delimiter)
        if len(cells) != len(self.names):
            return None
        named = zip(self.names, cells, _places(text, cells), strict=True)
        parts = tuple(_measured(name, cell, at) for name, cell, at in named if cell)
        return Pieces(CELLS, parts[:MOST_PARTS], words=told_by(parts), delimiter=self.delimiter)


def split_cells(text: str, delimiter: str) -> list[str]:
    """Return the cells of a line, quotes taken off; a space as delimiter stands for runs of them."""
    if delimiter == " ":
        return text.split()
    if delimiter == "|":  # a table drawn with bars has one at each end
        text = text.strip().removeprefix("|").removesuffix("|")
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


def _measured(name: str, cell: str, at: int) -> Part:
    found = _MEASURED.fullmatch(cell)
    if found and (unit := UNITS.get(found[2].lower())):
        return Part(name, found[1], unit, at)
    return Part(name, cell[:400], at=at)


def _places(text: str, cells: Sequence[str]) -> list[int]:
    """Return where each cell begins in its line; -1 for all where quotes were taken off."""
    if '"' in text:
        return [-1] * len(cells)
    places, end = [], 0
    for cell in cells:
        at = text.find(cell, end)
        places.append(at)
        end = at + max(len(cell), 1)
    return places


_KEYED = re.compile(r"[A-Za-zÀ-ÿ_#][\w .#/-]{0,40}[=:]\s*\S")
_SIMPLE = re.compile(r"[-+]?[\w.,:/+%°-]{0,64}|\"[^\"]{0,200}\"")


def delimiter_of(text: str) -> str:
    """Return what parts a line's cells: three or more simple cells, and no keys among them."""
    for delimiter in DELIMITERS:
        if text.count(delimiter) < 2:
            continue
        cells = _headed(split_cells(text, delimiter))
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


_HEAD = re.compile(r"([$+#<>!]*[A-Za-z][A-Za-z_+#<>.-]{0,23}):\s*([^:=]+)")


def _headed(cells: list[str]) -> list[str]:
    """Return cells of which the first, like “RECV: 11”, is parted into the word and its cell."""
    found = _HEAD.fullmatch(cells[0])
    return [found[1], found[2], *cells[1:]] if found and len(cells) > 1 else cells


def _numbers(cells: Sequence[str]) -> int:
    return sum(1 for cell in cells if NUMBER.fullmatch(cell))


def positional(text: str, delimiter: str, stamp: str, *, names_first: bool) -> Pieces:
    """Return a line as cells that its first word, if it is a kind, and their places name."""
    cells = _headed(split_cells(text, delimiter))
    lead = cells[0] if cells[0] and not NUMBER.fullmatch(cells[0]) else ""
    # a lone letter or a name with a digit is somebody's, not a kind of line
    is_kind = re.fullmatch(r"[$+#<>!]*[A-Za-z][A-Za-z_+#<>:.-]{1,23}", lead) is not None
    head = lead.rstrip(":") if is_kind and not names_first else ""
    prefix = f"{head}/{len(cells)}"
    named = zip(range(1, len(cells) + 1), cells, _places(text, cells), strict=True)
    parts = tuple(
        _measured(f"{prefix}[{i}]", cell, at)
        for i, cell, at in named
        if cell and not (head and i == 1)
    )
    words = frozenset(re.findall(r"[a-z]+", head.lower()))
    return Pieces(CELLS, parts[:MOST_PARTS], words=words, stamp=stamp, delimiter=delimiter)


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
