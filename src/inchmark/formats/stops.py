"""The stops file: CSV with `stop, distance_m` and optionally coordinates, height.

Name and method.
"""

from __future__ import annotations

import csv
from dataclasses import dataclass

from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.columns import NumberColumn
from inchmark.formats.frame_log.lines import BadLine, Line, check_signature, numbered_lines

NUMBERS = {
    "distance_m": NumberColumn(0.1, 1e6, "m"),
    "lat": NumberColumn(-90, 90, "degrees"),
    "lon": NumberColumn(-180, 180, "degrees"),
    "height_m": NumberColumn(-500, 9000, "m"),
    "plus_minus_m": NumberColumn(0, 1e5, "m"),
}
MOST_ROWS = 5_000
COLUMNS = ("stop", "distance_m", "lat", "lon", "height_m", "name", "method", "plus_minus_m")


@dataclass(frozen=True, slots=True, kw_only=True)
class StopRow:
    """One stop as written; distance None where only coordinates are given."""

    stop: str
    distance_m: float | None = None
    lat: float | None = None
    lon: float | None = None
    height_m: float | None = None
    name: str = ""
    method: str = ""
    plus_minus_m: float | None = None


def _refuse_too_many(lines: int) -> None:
    if lines - 1 > MOST_ROWS:
        raise UnreadableFileError(
            f"The file has {lines} lines; {MOST_ROWS} are read at most. Is it the frame log? That goes to Walk."
        )


def read_stops(data: bytes) -> tuple[list[StopRow], list[BadLine]]:
    """Return the stops and the lines that could not be read.

    Raises
    ------
    UnreadableFileError
        The file is no text, is empty, or has no column `stop`.
    """
    check_signature(data)
    _refuse_too_many(max(data.count(b"\n"), data.count(b"\r")))
    lines = list(numbered_lines([data]))
    if not lines or isinstance(lines[0], BadLine):
        raise UnreadableFileError(
            "The stops file is empty. It starts with a header: stop, distance_m."
        )
    header = lines[0].text
    delimiter = ";" if header.count(";") > header.count(",") else ","
    names = [name.strip().lower() for name in header.split(delimiter)]
    if "stop" not in names or not {"distance_m", "lat"} & set(names):
        raise UnreadableFileError(
            f"The header needs stop and distance_m (or lat and lon); this file starts with “{header[:80]}”."
        )
    rows: list[StopRow] = []
    taken: set[str] = set()
    bad = [line for line in lines[1:] if isinstance(line, BadLine)]
    for line in lines[1:]:
        if isinstance(line, Line):
            try:
                rows.append(_row(names, line.text, delimiter, taken))
                taken.add(rows[-1].stop)
            except ValueError as wrong:
                bad.append(BadLine(line.number, line.text, str(wrong)))
    return rows, sorted(bad, key=lambda one: one.number)


def _row(names: list[str], text: str, delimiter: str, taken: set[str]) -> StopRow:
    try:
        tokens = [
            token.strip() for token in next(csv.reader([text], delimiter=delimiter, strict=True))
        ]
    except csv.Error:
        raise ValueError("A quotation mark is opened and not closed on this line.") from None
    if len(tokens) != len(names):
        raise ValueError(f"The line has {len(tokens)} fields, the header has {len(names)}.")
    found = dict(zip(names, tokens, strict=True))
    if not found["stop"]:
        raise ValueError("stop is empty.")
    if found["stop"] in taken:
        raise ValueError(f"Stop {found['stop']} stands in the file twice; the first one is taken.")
    numbers = {k: c.check(k, found[k]) for k, c in NUMBERS.items() if found.get(k)}
    if "distance_m" not in numbers and not {"lat", "lon"} <= set(numbers):
        raise ValueError(f"Stop {found['stop']} has neither a distance nor coordinates.")
    return StopRow(
        stop=found["stop"], name=found.get("name", ""), method=found.get("method", ""), **numbers
    )
