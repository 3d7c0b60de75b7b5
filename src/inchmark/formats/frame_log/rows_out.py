"""Gathered frames as our frame log: the columns that hold anything, in the documented order."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from inchmark.core.gathering.source import Row
from inchmark.formats.frame_log.columns import COLUMNS, REQUIRED
from inchmark.formats.frame_log.writer import Cell, csv_lines, iso_time

ALWAYS = (*REQUIRED, "heard")


def log_lines(rows: Sequence[Row], *, dated_from_s: float = 0.0) -> Iterator[str]:
    """Yield the lines of a frame log; a time before `dated_from_s` has no date and stays empty."""
    cells = [row_cells(row, dated_from_s=dated_from_s) for row in rows]
    filled = {name for row in cells for name, value in row.items() if value not in (None, "")}
    columns = [name for name in COLUMNS if name in ALWAYS or name in filled]
    return csv_lines(cells, columns)


def row_cells(row: Row, *, dated_from_s: float = 0.0) -> dict[str, Cell]:
    """Return one row by column name, None where nothing was measured."""
    dated = row.time_s is not None and row.time_s >= dated_from_s
    return {
        "rig": row.rig,
        "stop": row.stop,
        "seq": row.seq,
        "heard": int(row.heard),
        "time": iso_time(round(row.time_s or 0.0, 6)) if dated else None,
        "rssi_dbm": _figure(row.rssi_dbm),
        "snr_db": _figure(row.snr_db),
        "noise_dbm": _figure(row.noise_dbm),
        "condition": row.condition,
        "direction": row.direction,
        "receiver": row.receiver,
        "source": row.source,
        "hops": None if row.hops is None else int(row.hops),
        "lat": None if row.lat is None else round(row.lat, 7),
        "lon": None if row.lon is None else round(row.lon, 7),
        "pass": row.pass_number or None,
    }


def _figure(value: float | None) -> Cell:
    """Return a figure without the tail that binary arithmetic leaves."""
    return None if value is None else float(f"{value:.4f}")
