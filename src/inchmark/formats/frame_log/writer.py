"""Frames back to a log: the same columns, so that what was read can be read again."""

from __future__ import annotations

import csv
import io
import itertools
import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import UTC, datetime

from inchmark.core.simulation import SimulatedFrame
from inchmark.formats.frame_log.columns import COLUMNS

Cell = str | float | int | None
# what a spreadsheet runs, and the same guarded already: so that what is taken off is what was put on
FORMULA = re.compile(r"'*[=+\-@\t\r]")
SIMULATED_COLUMNS = COLUMNS[: COLUMNS.index("condition") + 1]


def iso_time(time_s: float) -> str:
    """Return ISO 8601 in UTC."""
    return datetime.fromtimestamp(time_s, UTC).isoformat().replace("+00:00", "Z")


def simulated_tokens(frame: SimulatedFrame) -> dict[str, Cell]:
    """Return one simulated frame by column name, None where a log would be empty."""
    return {
        "rig": frame.rig,
        "stop": frame.stop,
        "seq": frame.seq,
        "heard": int(frame.heard),
        "time": iso_time(frame.time_s),
        "rssi_dbm": frame.rssi_dbm,
        "snr_db": frame.snr_db,
        "noise_dbm": frame.noise_dbm,
        "condition": frame.condition,
    }


def csv_lines(rows: Iterable[Mapping[str, Cell]], columns: Iterable[str]) -> Iterator[str]:
    """Yield CSV lines with a header; None is an empty field.

    Text that a spreadsheet would run as a formula gets an apostrophe before it.
    """
    names = list(columns)
    cells: Iterable[Sequence[Cell]] = ([row.get(name) for name in names] for row in rows)
    for row in itertools.chain([names], cells):
        line = io.StringIO()
        csv.writer(line, lineterminator="\n").writerow([harmless(value) for value in row])
        yield line.getvalue()


def unguarded(token: str) -> str:
    """Return text without the apostrophe that an export put before it."""
    return token[1:] if token[:1] == "'" and FORMULA.match(token) else token


def harmless(value: Cell) -> Cell:
    """Return a cell that no spreadsheet runs: text like a formula gets an apostrophe before it."""
    if value is None:
        return ""
    if isinstance(value, str) and FORMULA.match(value):
        return f"'{value}"
    return value
