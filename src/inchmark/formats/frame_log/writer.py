"""Frames back to a log: the same columns, so that what was read can be read again."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator
from datetime import UTC, datetime

from inchmark.core.simulation import SimulatedFrame
from inchmark.formats.frame_log.columns import COLUMNS

SIMULATED_COLUMNS = (
    "rig",
    "stop",
    "seq",
    "heard",
    "time",
    "rssi_dbm",
    "snr_db",
    "noise_dbm",
    "condition",
)


def iso_time(time_s: float) -> str:
    """Return ISO 8601 in UTC."""
    return datetime.fromtimestamp(time_s, UTC).isoformat().replace("+00:00", "Z")


def simulated_tokens(frame: SimulatedFrame) -> dict[str, object]:
    """Return one simulated frame by column name, None where a log would be empty."""
    return {
        "rig": frame.rig, "stop": frame.stop, "seq": frame.seq, "heard": int(frame.heard),
        "time": iso_time(frame.time_s), "rssi_dbm": frame.rssi_dbm, "snr_db": frame.snr_db,
        "noise_dbm": frame.noise_dbm, "condition": frame.condition,
    }  # fmt: skip


def csv_lines(rows: Iterable[dict[str, object]], columns: Iterable[str] = COLUMNS) -> Iterator[str]:
    """Yield CSV lines with a header; None is an empty field."""
    names = list(columns)
    for row in chain_header(names, rows):
        line = io.StringIO()
        csv.writer(line, lineterminator="\n").writerow(
            ["" if value is None else value for value in row]
        )
        yield line.getvalue()


def chain_header(names: list[str], rows: Iterable[dict[str, object]]) -> Iterator[list[object]]:
    """Yield the names, then each row's values in their order."""
    yield list(names)
    for row in rows:
        yield [row.get(name) for name in names]
