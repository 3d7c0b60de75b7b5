"""The shape of a report: page one, sections, tables. Every cell is text with its unit and limits."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

LONGEST_WORD = 16


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A table: heads carry the units; cells are text."""

    caption: str
    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    numbers: frozenset[int] = frozenset()  # columns set flush right

    @property
    def widths(self) -> list[float]:
        """Return each column's share of the width [%]: wider where more is written, words kept whole."""
        columns = list(zip(*(self.heads, *self.rows), strict=True))
        asked = [max(_longest_word(column), _typical(column)) for column in columns]
        return [round(100 * one / sum(asked), 2) for one in asked]


def _longest_word(cells: Sequence[str]) -> float:
    words = (len(word) for cell in cells for word in cell.split())
    return float(min(max(words, default=1), LONGEST_WORD))


def _typical(cells: Sequence[str]) -> float:
    """Return the width a column asks for: less than its longest cell, which may take several lines."""
    longest = float(max(len(cell) for cell in cells))
    return math.pow(longest, 0.62) + 2


@dataclass(frozen=True, slots=True, kw_only=True)
class Section:
    """A heading with sentences and tables; `charts` are drawn where there is a page for them."""

    key: str
    title: str
    words: tuple[str, ...] = ()
    tables: tuple[Table, ...] = ()
    charts: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class PageOne:
    """What who decides reads: question, answer, places, three reasons, what is uncertain, cost."""

    title: str
    question: str
    answer: str
    limits: str
    decided: str
    served: tuple[str, ...]
    reasons: tuple[str, ...]
    uncertain: tuple[str, ...]
    cost: tuple[str, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Report:
    """A whole report, and what made it."""

    first: PageOne
    sections: tuple[Section, ...]
    made: str


def markdown(report: Report) -> str:
    """Return a report as Markdown."""
    first = report.first
    lines = [f"# {_plain(first.title)}", ""]
    if first.question:
        lines += [f"**{_plain(first.question)}**", ""]
    lines += [_plain(first.answer), "", _plain(first.limits), ""]
    if first.decided:
        lines += [f"**{_plain(first.decided)}**", ""]
    for name, rows in (
        ("Places served", first.served),
        ("Reasons", first.reasons),
        ("Uncertain", first.uncertain),
        ("Cost", first.cost),
    ):
        if rows:
            lines += [f"## {name}", "", *(f"- {_plain(one)}" for one in rows), ""]
    for section in report.sections:
        lines += [f"## {section.title}", ""]
        for words in section.words:
            lines += [_plain(words), ""]
        for table in section.tables:
            lines += [*_table(table), ""]
    return "\n".join([*lines, f"*{report.made}*", ""])


def _table(table: Table) -> Sequence[str]:
    rule = ["---:" if i in table.numbers else "---" for i in range(len(table.heads))]
    rows = [table.heads, tuple(rule), *table.rows]
    lines = ["| " + " | ".join(_cell(cell) for cell in row) + " |" for row in rows]
    return [f"*{_plain(table.caption)}*", "", *lines]


def _cell(text: str) -> str:
    return _plain(text).replace("|", "\\|")


def _plain(text: str) -> str:
    """Return text that Markdown shows as it stands: what people typed is no markup."""
    for mark in ("\\", "`", "*", "_", "<", "[", "#"):
        text = text.replace(mark, f"\\{mark}")
    return " ".join(text.split())


def csv_rows(report: Report) -> list[list[str]]:
    """Return the tables of a report as rows: section, table, then a head row and its cells."""
    rows: list[list[str]] = []
    for section in report.sections:
        for table in section.tables:
            rows.append([section.title, table.caption, *table.heads])
            rows += [[section.title, table.caption, *row] for row in table.rows]
    return rows
