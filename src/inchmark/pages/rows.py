"""A field of rows: one line each, values between commas, each with its unit."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django import forms

from inchmark.formats.quantities import read_power_dbm, read_quantity

MOST_ROWS = 200
COUNT = "frames"
_NUMBERS = re.compile(r"^\s*-?[\d.]+(\s+-?[\d.]+)+\s*$")  # columns pasted with blanks between


@dataclass(frozen=True, slots=True)
class Column:
    """One value of a row: its name, its unit ("" for text), the unit of a bare number."""

    name: str
    unit: str = ""
    bare_unit: str | None = None

    def read(self, text: str) -> Any:
        """Return the value in the column's unit."""
        if not self.unit:
            return text
        if self.unit == "dBm":
            return read_power_dbm(text)
        if self.unit == COUNT:
            return _count(text, self.name)
        if self.unit in ("dB", "%"):
            return _number(text.removesuffix(self.unit), self.name)
        return read_quantity(text, self.unit, bare_unit=self.bare_unit)

    def show(self, value: Any) -> str:
        """Return the value as it could have been typed."""
        if not self.unit:
            return str(value)
        if self.unit == COUNT:
            return str(value)
        if self.unit == "Hz":
            kilo = self.bare_unit == "kHz"
            return f"{value / 1e3:.10g} kHz" if kilo else f"{value / 1e6:.10g} MHz"
        if self.unit == "A":
            return f"{value * 1e3:.10g} mA"
        return f"{value:.10g} {self.unit}"


def _count(text: str, name: str) -> int:
    if not text.isdecimal() or len(text) > 7:
        raise ValueError(f"“{text}” is no count for the frames {name}")
    return int(text)


def _number(text: str, name: str) -> float:
    try:
        return float(text.strip().replace("\N{MINUS SIGN}", "-"))
    except ValueError:
        raise ValueError(f"“{text.strip()}” is no number for the {name}") from None


class RowsField(forms.CharField):
    """Lines of values; gives a list of lists, sorted where a table ascends."""

    widget = forms.Textarea

    def __init__(
        self, columns: Sequence[Column], *, ascending: bool = False, **kwargs: Any
    ) -> None:
        self.columns, self.ascending = columns, ascending
        kwargs.setdefault("required", False)
        kwargs.setdefault("max_length", 8000)
        super().__init__(**kwargs)
        self.widget.attrs.update({"rows": 4, "spellcheck": "false"})

    def to_python(self, value: Any) -> Any:
        """Return the rows."""
        lines = [line for line in (super().to_python(value) or "").splitlines() if line.strip()]
        if len(lines) > MOST_ROWS:
            raise forms.ValidationError(f"Write {MOST_ROWS} lines at most.")
        rows = [self._row(number, line) for number, line in enumerate(lines, start=1)]
        return sorted(rows) if self.ascending else rows

    def _row(self, number: int, line: str) -> list[Any]:
        values = [part.strip() for part in re.split(r"[,;\t]", line)]
        if _NUMBERS.match(line):
            values = line.split()
        names = ", ".join(column.name for column in self.columns)
        if len(values) != len(self.columns) or not all(values):
            raise forms.ValidationError(
                f"Line {number}, “{line.strip()[:60]}”: write {len(self.columns)} values with commas between: {names}."
            )
        try:
            return [c.read(v) for c, v in zip(self.columns, values, strict=True)]
        except ValueError as wrong:
            raise forms.ValidationError(f"Line {number}: {str(wrong).rstrip('.')}.") from None

    def prepare_value(self, value: Any) -> Any:
        """Show stored rows as lines."""
        if not isinstance(value, list | tuple):
            return value
        return "\n".join(
            ", ".join(c.show(v) for c, v in zip(self.columns, row, strict=True)) for row in value
        )

    def run_validators(self, value: Any) -> None:
        """Leave length checks of text aside."""

    def has_changed(self, initial: Any, data: Any) -> bool:
        """Tell whether the lines differ from the stored rows."""
        return bool(self.prepare_value(initial) != data)
