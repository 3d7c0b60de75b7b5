"""A kept log read on as it grows: only what has come since is read."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import repeat
from typing import Any

import numpy as np

from inchmark.core.gathering.log import LogReading
from inchmark.core.gathering.source import Row, Source
from inchmark.core.recipe.reader import Reader, Told
from inchmark.formats.console_text import console_lines
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.reader import is_frame_log, read_frame_log
from inchmark.formats.frame_log.rows import FrameBlock

_FIGURES = ("rssi_dbm", "snr_db", "noise_dbm", "hops", "lat", "lon")
_TEXTS = ("condition", "direction", "receiver", "source")


@dataclass(frozen=True, slots=True)
class Piece:
    """Lines that came together, with when each came [s since 1970]."""

    data: bytes
    came: bytes | None

    def times(self) -> Iterator[float | None]:
        """Yield when each line came, None where nobody said."""
        if self.came is None:
            return iter(repeat(None, self.data.count(b"\n")))
        return iter(np.frombuffer(self.came, dtype="<f8").tolist())


@dataclass(slots=True)
class Tail:
    """One log: where its reading has come to. `header` is the first line of a frame log of ours."""

    reading: LogReading | None
    header: bytes = b""
    _reader: Reader | None = field(default=None, init=False)
    _number: int = field(default=0, init=False)

    def __post_init__(self) -> None:
        """Make the reader of its recipe."""
        if self.reading is not None:
            self._reader = Reader(self.reading.recipe, self.reading.clocking)

    def rows(self, pieces: Sequence[Piece]) -> list[Row]:
        """Return the frames that more lines tell, not placed by the timeline yet."""
        found: list[Row] = []
        for piece in pieces:
            found += self._by_recipe(piece) if self.reading else self._of_ours(piece.data)
        return found

    def _by_recipe(self, piece: Piece) -> list[Row]:
        told: list[Told] = []
        shift = self.reading.clocking.shift_s if self.reading else 0.0
        times = list(piece.times())
        for line in console_lines([piece.data]):
            came = times[line.number - 1] if line.number <= len(times) else None
            for event in self._reader.read(self._number + line.number, line.text):  # type: ignore[union-attr]
                if isinstance(event, Told):
                    if event.time_s is None and came is not None:
                        event.time_s = came + shift
                    told.append(event)
        self._number += piece.data.count(b"\n")
        constants = self.reading.constants  # type: ignore[union-attr]
        return [row for _, row in Source(name="", told=constants.rows(told)).told]

    def _of_ours(self, data: bytes) -> list[Row]:
        head = b"" if is_frame_log(data) else self.header
        if not head and not is_frame_log(data):
            return []
        try:
            pieces = list(read_frame_log([head + data]))
        except UnreadableFileError:  # the reading of the whole log says so
            return []
        return [row for piece in pieces for block in piece.blocks for row in _rows(block)]


def _rows(block: FrameBlock) -> Iterator[Row]:
    for i in range(len(block)):
        said: dict[str, Any] = {n: block.text[n][i] for n in _TEXTS if n in block.text}
        figures = {name: float(block.number[name][i]) for name in _FIGURES if name in block.number}
        said |= {name: value for name, value in figures.items() if value == value}
        time_s = float(block.time_s[i])
        yield Row(
            rig=block.text["rig"][i],
            stop=block.text["stop"][i],
            seq=int(block.seq[i]),
            heard=bool(block.heard[i]),
            time_s=time_s if time_s == time_s else None,
            line=int(block.line[i]),
            **said,
        )
