"""Lists that are filtered and sorted by the server: what is asked, and the rows that answer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from django.http import HttpRequest


@dataclass(frozen=True, slots=True)
class Head:
    """A column: the key it is sorted by, its name, its unit, whether it holds numbers."""

    key: str
    name: str
    unit: str = ""
    number: bool = False


@dataclass(frozen=True, slots=True)
class ListCell:
    """What a cell shows, what it is sorted by, and a small line under it."""

    text: str
    sort: Any = None
    under: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ListRow:
    """An object with its cells in the order of the heads."""

    item: Any
    cells: list[ListCell]
    archived: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What the address asks for."""

    query: str = ""
    sort: str = ""
    archived: bool = False

    @classmethod
    def of(cls, request: HttpRequest) -> Wanted:
        """Return what a request asks for."""
        get = request.GET
        return cls(
            query=get.get("q", "")[:100].strip(),
            sort=get.get("sort", "")[:40],
            archived=get.get("archived") == "1",
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Listing:
    """The rows that answer, and how many there are in all."""

    heads: Sequence[Head]
    rows: list[ListRow]
    total: int
    archived_count: int
    wanted: Wanted

    def columns(self) -> list[tuple[Head, str, str]]:
        """Return each head with its aria-sort and the address that sorts by it."""
        return [(head, self._direction(head), self._address(head)) for head in self.heads]

    @property
    def said(self) -> str:
        """Return how many rows answer, for those who listen."""
        return f"{len(self.rows)} of {self.total} shown"

    def _direction(self, head: Head) -> str:
        return {head.key: "ascending", f"-{head.key}": "descending"}.get(self.wanted.sort, "")

    def _address(self, head: Head) -> str:
        turned = f"-{head.key}" if self.wanted.sort == head.key else head.key
        asked = {"q": self.wanted.query, "sort": turned}
        if self.wanted.archived:
            asked["archived"] = "1"
        return "?" + urlencode(asked)


def listing(heads: Sequence[Head], rows: Sequence[ListRow], wanted: Wanted) -> Listing:
    """Return the rows whose texts hold every word asked for, sorted as asked."""
    shown = [row for row in rows if wanted.archived or not row.archived]
    words = wanted.query.lower().split()
    found = [row for row in shown if all(word in _text(row) for word in words)]
    keys = [head.key for head in heads]
    bare = wanted.sort.removeprefix("-")
    if bare in keys:
        at = keys.index(bare)
        known = [row for row in found if _sort(row.cells[at]) is not None]
        unknown = [row for row in found if _sort(row.cells[at]) is None]
        known.sort(key=lambda row: _sort(row.cells[at]), reverse=wanted.sort.startswith("-"))
        found = known + unknown
    return Listing(
        heads=heads,
        rows=found,
        total=len(shown),
        archived_count=sum(row.archived for row in rows),
        wanted=wanted,
    )


def _text(row: ListRow) -> str:
    return " ".join(f"{cell.text} {cell.under}" for cell in row.cells).lower()


def _sort(cell: ListCell) -> Any:
    return cell.text.lower() if cell.sort is None and cell.text != "–" else cell.sort
