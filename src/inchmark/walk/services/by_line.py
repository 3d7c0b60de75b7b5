"""A long log placed line by line: frames straight into columns, so that memory stays flat."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.gathering.log import LogReading
from inchmark.core.gathering.source import Row
from inchmark.core.gathering.timeline import Stay
from inchmark.core.gathering.visits import parted_by
from inchmark.core.recipe.names import Act, Meaning
from inchmark.core.recipe.reader import Damaged, Event, Told
from inchmark.formats.frame_log.lines import BadLine
from inchmark.formats.frame_log.reader import LogPiece
from inchmark.formats.frame_log.rows import FrameBlock
from inchmark.walk.services.by_recipe import PIECE, unplaced_words

_FIGURES = (
    Meaning.RSSI, Meaning.SNR, Meaning.NOISE, Meaning.HOPS, Meaning.LAT, Meaning.LON,
)  # fmt: skip
_TEXTS = (Meaning.STOP, Meaning.CONDITION, Meaning.DIRECTION, Meaning.RECEIVER, Meaning.SOURCE)
_NAMES = (Meaning.RIG, *_TEXTS)


@dataclass(slots=True)
class _Columns:
    """Frames as they come, a list a column."""

    line: list[int] = field(default_factory=list)
    seq: list[int] = field(default_factory=list)
    heard: list[bool] = field(default_factory=list)
    time_s: list[float] = field(default_factory=list)
    passes: list[int] = field(default_factory=list)
    texts: tuple[list[str], ...] = field(default_factory=lambda: tuple([] for _ in _NAMES))
    figures: dict[Meaning, list[float]] = field(default_factory=dict)

    def block(self) -> FrameBlock:
        """Return them as one block."""
        number: dict[str, Floats] = {str(m): np.array(own) for m, own in self.figures.items()}
        number["pass"] = np.array(self.passes, dtype=np.float64)
        return FrameBlock(
            line=np.array(self.line, dtype=np.int64),
            seq=np.array(self.seq, dtype=np.int64),
            heard=np.array(self.heard, dtype=bool),
            text={str(name): own for name, own in zip(_NAMES, self.texts, strict=True) if any(own)},
            number={name: own for name, own in number.items() if not np.all(np.isnan(own))},
            time_s=np.array(self.time_s, dtype=np.float64),
        )


@dataclass(slots=True)
class Streamed:
    """A long log read line by line: frames that bear a counter, placed as they come.

    Nothing is held but where each rig stands, so memory does not follow the log's length. What
    needs the whole log is not done: tries with answers, a beat, frames sent after the last heard.
    """

    reading: LogReading
    bad: list[BadLine] = field(default_factory=list)
    no_frames: int = 0
    columns: _Columns = field(default_factory=_Columns)
    stands: dict[tuple[str, ...], tuple[tuple[str, ...], Stay | None]] = field(default_factory=dict)
    passes: dict[tuple[str, ...], int] = field(default_factory=dict)

    def pieces(self, events: Iterable[tuple[str, list[Event]]]) -> Iterator[LogPiece]:
        """Yield pieces, each with the lines up to it that could not be read."""
        self.columns = self._columns()
        for text, told in events:
            for event in told:
                if isinstance(event, Told) and event.get(Meaning.SEQ) is not None:
                    self._take(event, text)
                elif isinstance(event, Damaged):
                    self.bad.append(BadLine(event.number, event.text, event.reason))
                else:
                    self.no_frames += 1
            if len(self.columns.line) >= PIECE:
                yield self._piece()
        yield self._piece()

    def _piece(self) -> LogPiece:
        blocks = [self.columns.block()] if self.columns.line else []
        piece = LogPiece(blocks=blocks, bad=self.bad)
        self.columns, self.bad = self._columns(), []
        return piece

    def _columns(self) -> _Columns:
        """Return empty columns for what this recipe can give; positions may stand between frames."""
        known = {use.meaning for use in self.reading.recipe.uses} | {Meaning.LAT, Meaning.LON}
        return _Columns(figures={meaning: [] for meaning in _FIGURES if meaning in known})

    def _take(self, event: Told, text: str) -> None:
        constants = self.reading.constants.values
        found = {**constants, **event.values} if constants else event.values
        said = [str(found.get(meaning, "")) for meaning in _TEXTS]
        rig = str(found.get(Meaning.RIG, "") or said[-1])
        stay = None
        if self.reading.timeline.stays:
            rig, said, stay = self._by_timeline(event, rig, said)
        if not (rig and said[0]):
            row = Row(rig=rig, stop=said[0])
            self.bad.append(BadLine(event.number, text, unplaced_words(row, self.reading)))
        elif event.act in (Act.HEARD, Act.LOST):
            self._add(event, found, rig, said, self._pass(rig, said, stay))

    def _by_timeline(
        self, event: Told, rig: str, said: list[str]
    ) -> tuple[str, list[str], Stay | None]:
        stop, condition, direction, receiver, source = said
        row = Row(rig=rig, stop=stop, condition=condition, receiver=receiver, time_s=event.time_s)
        stay, row = self.reading.timeline.stay_of(row), self.reading.timeline.placed(row)
        return row.rig, [row.stop, row.condition, direction, row.receiver, source], stay

    def _add(
        self, event: Told, found: dict[Meaning, object], rig: str, said: list[str], number: int
    ) -> None:
        own = self.columns
        own.line.append(event.number)
        own.seq.append(event.values[Meaning.SEQ])
        own.heard.append(event.act is Act.HEARD)
        own.time_s.append(np.nan if event.time_s is None else event.time_s)
        own.passes.append(number)
        for column, text in zip(own.texts, (rig, *said), strict=True):
            column.append(text)
        for meaning, values in own.figures.items():
            values.append(found.get(meaning, np.nan))  # type: ignore[arg-type]

    def _pass(self, rig: str, said: list[str], stay: Stay | None) -> int:
        stream, key = (rig, said[2], said[3]), (rig, *said[:4])
        here = self.stands.get(stream)
        if here is None or here[0] != key or parted_by(here[1], stay):
            self.passes[key] = self.passes.get(key, -1) + 1
        self.stands[stream] = (key, stay)
        return self.passes[key]
