"""Candidates side by side: a row each, every figure against the chosen one's, the best told by weight."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from inchmark.core.candidates import ahead, power_saved_share, price_per_db, range_factor
from inchmark.core.wording import number
from inchmark.formats.frame_log.writer import Cell as CsvCell

NONE = "–"


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """A figure: key, head, unit, digits; which way is better (1 more, -1 less, 0 neither)."""

    key: str
    title: str
    unit: str = ""
    digits: int = 1
    better: int = 0
    shares: bool = False  # a difference is told in per cent, not in the unit


@dataclass(frozen=True, slots=True)
class Value:
    """A figure and where it is known from: datasheet, bench, walk, computed."""

    value: float | None
    source: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidate:
    """One to be held beside others: its values by column, and what speaks against it."""

    item: Any
    label: str
    name: str
    values: Mapping[str, Value]
    marks: tuple[str, ...] = ()
    letter: str = ""  # a rig's


@dataclass(frozen=True, slots=True, kw_only=True)
class BesideCell:
    """A figure as shown: its text, the difference against the chosen one, its source."""

    text: str
    against: str
    source: str
    best: bool
    value: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class BesideRow:
    """A candidate as shown."""

    candidate: Candidate
    cells: list[BesideCell]
    chosen: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    """All of them, and what is to be said first."""

    columns: list[Column]
    rows: list[BesideRow]
    headline: str
    exponent: float
    exponent_words: str


GAINED = (
    Column(key="gained", title="against the chosen", unit="dB", better=1),
    Column(key="factor", title="range", unit="times", digits=2, better=1),
    Column(key="saved", title="power saved", unit="%", digits=0, better=1),
)
PRICE = (
    Column(key="price", title="price", unit="of the kit", digits=2, better=-1),
    Column(key="per_db", title="a dB costs", unit="more", digits=2, better=-1),
)


def beside(
    candidates: Sequence[Candidate],
    columns: Sequence[Column],
    chosen: Candidate,
    *,
    strength: str,
    exponent: float,
    words: str,
) -> Beside:
    """Return candidates beside each other, differences against the chosen one.

    Parameters
    ----------
    strength
        The column whose difference in dB is the gain: what a range factor, power and price follow.
    """
    full = [_with_gains(one, chosen, strength, exponent) for one in candidates]
    shown = [c for c in columns if any(_value(one, c) is not None for one in full)]
    base = next(one for one in full if one.item == chosen.item)
    best = {
        column.key: ahead(
            [None if one.marks else _value(one, column) for one in full], column.better
        )
        for column in shown
    }
    rows = [
        BesideRow(
            candidate=one,
            chosen=one.item == chosen.item,
            cells=[_cell(one, base, column, best=best[column.key][i]) for column in shown],
        )
        for i, one in enumerate(full)
    ]
    return Beside(
        columns=shown, rows=rows, headline=_headline(full, base),
        exponent=exponent, exponent_words=words,
    )  # fmt: skip


def _value(one: Candidate, column: Column) -> float | None:
    found = one.values.get(column.key)
    return found.value if found else None


def _with_gains(one: Candidate, chosen: Candidate, strength: str, exponent: float) -> Candidate:
    mine, base = one.values[strength].value, chosen.values[strength].value
    if mine is None or base is None or one.item == chosen.item:
        return one
    gain = mine - base
    more = {
        "gained": Value(gain),
        "factor": Value(range_factor(gain, exponent)),
        "saved": Value(100 * power_saved_share(gain) if gain > 0 else None),
    }
    paid, before = one.values["price"].value, chosen.values["price"].value
    if paid is not None and before is not None:
        more["per_db"] = Value(price_per_db(paid - before, gain))
    return Candidate(
        item=one.item, label=one.label, name=one.name, marks=one.marks, letter=one.letter,
        values={**one.values, **more},
    )  # fmt: skip


def _cell(one: Candidate, base: Candidate, column: Column, *, best: bool) -> BesideCell:
    found = one.values.get(column.key, Value(None))
    if found.value is None:
        return BesideCell(text=NONE, against="", source=found.source, best=False, value=None)
    return BesideCell(
        text=number(found.value, column.digits, sign=column.key == "gained"),
        against=_against(found.value, _value(base, column), column) if one is not base else "",
        source=found.source,
        best=best,
        value=found.value,
    )


def _against(value: float, base: float | None, column: Column) -> str:
    """Return a difference in the column's unit, or in per cent where it says so."""
    if base is None or column in GAINED or column.key == "per_db":
        return ""
    if column.shares:
        return f"{number(100 * (value / base - 1), 0, sign=True)} %" if base else ""
    return number(value - base, column.digits, sign=True)


def _headline(full: Sequence[Candidate], base: Candidate) -> str:
    """Return who reaches farthest, in a sentence; one over its limit is never praised."""
    told = [one for one in full if "gained" in one.values and not one.marks]
    best = max(told, key=lambda one: one.values["gained"].value or 0.0, default=None)
    gain = best.values["gained"].value if best else None
    if best is None or gain is None:
        return f"Nothing to hold against {base.label} yet."
    if gain <= 0.05:
        return f"None is stronger than {base.label}."
    times = number(best.values["factor"].value or 1.0, 2)
    saved = number(best.values["saved"].value or 0.0, 0)
    label = f"{best.label[0].upper()}{best.label[1:]}"
    words = f"{label} has {number(gain)} dB on {base.label}: {times} times the range, or {saved} % of the power saved"
    more = best.values.get("per_db", Value(None)).value
    return f"{words}, {number(more, 2)} a dB." if more is not None else f"{words}."


def csv_rows(table: Beside) -> tuple[list[str], list[dict[str, CsvCell]]]:
    """Return the table as columns and rows of a CSV file, with sources and marks."""
    columns = ["candidate", "name"]
    for column in table.columns:
        columns += [_csv_name(column), f"{column.key}_known_from"]
    rows: list[dict[str, CsvCell]] = []
    for row in table.rows:
        cells: dict[str, CsvCell] = {"candidate": row.candidate.label, "name": row.candidate.name}
        for column, cell in zip(table.columns, row.cells, strict=True):
            cells[_csv_name(column)] = None if cell.value is None else round(cell.value, 6)
            cells[f"{column.key}_known_from"] = cell.source
        rows.append(cells | {"marks": "; ".join(row.candidate.marks)})
    return [*columns, "marks"], rows


def _csv_name(column: Column) -> str:
    unit = {"%": "percent", "": ""}.get(column.unit, column.unit.replace(" ", "_"))
    return f"{column.key}_{unit}".rstrip("_")
