"""Current traces: CSV of time and current, or of time and the voltage over a shunt."""

from __future__ import annotations

import codecs
import math
from dataclasses import dataclass
from datetime import date

import numpy as np
from numpy.typing import NDArray

from inchmark.core.recipe.clock import Clock, Kind
from inchmark.formats.current_header import PREAMBLE, Header, cells_of, header_of
from inchmark.formats.errors import UnreadableFileError

LARGEST_ROWS = 2_000_000
HEAD_ROWS = 1_000  # a header, remarks and empty lines do not count as samples
LONGEST_LINE = 4_000  # characters; a row is two numbers and what a logger adds
_ANY_DAY = date(1970, 1, 1)  # near nought, where a float parts nanoseconds
_UTF16 = (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)


@dataclass(frozen=True, slots=True)
class CurrentFile:
    """Times [s] and currents [A], one shape; supply voltages [V] of the same shape where it has them."""

    time_s: NDArray[np.float64]
    current_a: NDArray[np.float64]
    supply_v: NDArray[np.float64] | None = None


def read_current(data: bytes, *, shunt_ohm: float | None = None) -> CurrentFile:
    """Return the samples of a CSV file with a header that names quantities and units.

    Raises
    ------
    UnreadableFileError
        The file is empty, has no such header, lacks the shunt, or a row is not two numbers; the
        message names the line.
    """
    if data.count(b"\n") > LARGEST_ROWS + HEAD_ROWS:  # before they are parted
        raise UnreadableFileError(f"The file has over {LARGEST_ROWS:,} rows. Export fewer samples.")
    lines = [
        (number, line)
        for number, line in enumerate(_text(data).splitlines(), start=1)
        if line.strip() and not line.lstrip().startswith("#")
    ]
    if not lines:
        raise UnreadableFileError("The file is empty: there is no sample in it.")
    longest = max(lines, key=lambda one: len(one[1]))
    if len(longest[1]) > LONGEST_LINE:
        raise UnreadableFileError(
            f"Line {longest[0]} is {len(longest[1]):,} characters long, which is no sample. Export the trace as CSV, one sample a line."
        )
    if len(lines) > LARGEST_ROWS:
        raise UnreadableFileError(f"The file has over {LARGEST_ROWS:,} rows. Export fewer samples.")
    header = header_of([line for _, line in lines[: PREAMBLE + 3]], shunt_ohm)
    under = lines[header.lines :]
    if not under:
        raise UnreadableFileError("The file has a header and no sample under it.")
    at = header.columns
    row = _Row(header)
    rows = [row.read(number, line) for number, line in under]
    samples = np.array(rows, dtype=np.float64)
    return CurrentFile(
        time_s=(samples[:, 0] - samples[0, 0] * at.clock) * at.time_scale,
        current_a=samples[:, 1] * at.scale,
        supply_v=None if at.supply is None else samples[:, 2] * at.supply_scale,
    )


def _text(data: bytes) -> str:
    if data[:2] in _UTF16:
        return data.decode("utf-16", errors="replace")
    if b"\x00" in data[:4096]:
        raise UnreadableFileError("The file is not text. Export the trace as CSV.")
    return data.decode("utf-8-sig", errors="replace")


class _Row:
    """Reads the lines under a header in their order."""

    def __init__(self, header: Header) -> None:
        self.separator, at = header.separator, header.columns
        self.columns = (at.value,) if at.supply is None else (at.value, at.supply)
        self.time = at.time
        # dates are left out: only what passes counts, and the clock goes over midnight itself
        self.clock = Clock(kind=Kind.CLOCK, day=_ANY_DAY) if at.clock else None

    def read(self, number: int, line: str) -> tuple[float, ...]:
        """Return time, value and supply of a line, each in its own unit."""
        cells = cells_of(line, self.separator)
        try:
            values = (self._time(cells), *(self._number(cells[at]) for at in self.columns))
        except (ValueError, IndexError):
            wanted = "two" if len(self.columns) == 1 else "three"
            raise UnreadableFileError(
                f"Line {number}, “{line.strip()[:60]}”, is not {wanted} numbers. Mend it and bring the file again."
            ) from None
        if not all(map(math.isfinite, values)):
            raise UnreadableFileError(
                f"Line {number}, “{line.strip()[:60]}”, holds no finite number (NaN or infinity). Take the line out, or export again."
            )
        return values

    def _time(self, cells: list[str]) -> float:
        if self.clock is None:
            return self._number(cells[self.time])
        found = self.clock.read(cells[self.time].strip())
        return math.nan if found is None else found

    def _number(self, cell: str) -> float:
        """Return a figure; a comma within a cell is a decimal one."""
        return float(cell.replace(",", "."))
