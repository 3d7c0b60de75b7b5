"""A row of a reference table and the values computed for it."""

from __future__ import annotations

Row = dict[str, str]
Values = dict[str, float]


def number(row: Row, name: str) -> float:
    """Return a column's number."""
    return float(row[name])
