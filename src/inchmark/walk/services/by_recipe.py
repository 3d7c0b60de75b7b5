"""A kept log read by its recipe: the same lines give other frames once recipe or timeline change."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from itertools import islice

from inchmark.core.gathering.gather import gather
from inchmark.core.gathering.log import Lines, LogReading
from inchmark.core.gathering.source import Row, Source
from inchmark.core.recipe.names import Act, Meaning
from inchmark.core.recipe.reader import Event, Fix, Reader, Told
from inchmark.formats.console_text import console_lines
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.columns import COLUMNS
from inchmark.formats.frame_log.lines import BadLine, Line
from inchmark.formats.frame_log.reader import LogPiece
from inchmark.formats.frame_log.rows import Row as Tokens
from inchmark.formats.frame_log.rows import check_rows
from inchmark.formats.frame_log.rows_out import row_cells
from inchmark.walk.adapters.logs import reading_of
from inchmark.walk.models import FrameFile
from inchmark.walk.services.receive import file_bytes, times_of

PIECE = 20_000
MOST_FRAMES = 2_000_000  # of one log; they are placed together, so they are held together


def events_of(
    reading: LogReading,
    blocks: Iterable[bytes],
    corrections: Mapping[int, str] | None = None,
    came: Iterable[float | None] = (),
) -> Iterator[tuple[str, list[Event]]]:
    """Yield each line with what it tells; a corrected line is read in its new words.

    `came` is when each line came [s since 1970], as far as somebody said: the time of those that
    tell none.
    """
    reader, changed = Reader(reading.recipe, reading.clocking), corrections or {}
    timed = Arrivals(came, reading.clocking.shift_s)
    for line in console_lines(blocks):
        text = changed.get(line.number, line.text)
        at = timed.at(line.number)
        told = list(reader.read(line.number, text)) if text.strip() else []
        yield line.text, [with_time(one, at) for one in told]
    yield "", [with_time(one, timed.last) for one in reader.end()]


class Arrivals:
    """When lines came, asked for in order of their numbers."""

    def __init__(self, came: Iterable[float | None], shift_s: float = 0.0) -> None:
        self._came, self._number, self._shift_s = iter(came), 0, shift_s
        self.last: float | None = None

    def at(self, number: int) -> float | None:
        """Return when a line came [s since 1970], None where nobody said."""
        if number > self._number:
            came = next(islice(self._came, number - self._number - 1, None), None)
            self.last = None if came is None else came + self._shift_s
            self._number = number
        return self.last


def with_time(event: Event, came_s: float | None) -> Event:
    """Return what a line tells, at the time it came where it tells none itself."""
    if came_s is None:
        return event
    if isinstance(event, Told) and event.time_s is None:
        event.time_s = came_s
    elif isinstance(event, Fix) and event.time_s is None:
        return event._replace(time_s=came_s)
    return event


def sorted_lines(events: Iterable[tuple[str, list[Event]]]) -> Lines:
    """Return the lines of a log sorted by what they tell.

    Raises
    ------
    UnreadableFileError
        The log tells of more frames than can be placed together.
    """
    found = Lines()
    for _, told in events:
        for event in told:
            found.take(event)
        if len(found.told) > MOST_FRAMES:
            raise UnreadableFileError(
                f"The log tells of more than {MOST_FRAMES:,} frames. Split it by day or by stop, and send the parts."
            )
    return found


def lines_of_log(file: FrameFile) -> Lines:
    """Return the lines of a kept log that is read by a recipe, sorted by what they tell.

    Raises
    ------
    UnreadableFileError
        The log tells of more frames than can be placed together.
    """
    return sorted_lines(events_of(reading_of(file), file_bytes(file), came=times_of(file)))


def placed_rows(
    reading: LogReading, lines: Lines, name: str, senders: Sequence[Source] = ()
) -> tuple[list[Row], list[BadLine]]:
    """Return the frames of a log with rig and stop, and those that have none as bad lines.

    `senders` are other logs of the walk that tell what was sent: what this one did not hear of it is
    lost. A frame that only its sender knows has no line here; it bears that of the frame before it.
    """
    source = source_of(reading, lines, name)
    found = gather(
        [*senders, source], timeline=reading.timeline, sending=reading.sending, whole=False
    )
    bad = [
        BadLine(row.line, "", unplaced_words(row, reading)) for row in found.unplaced if row.heard
    ]
    if senders:
        found.rows = list(_with_lines(found.rows))
    return found.rows, bad


def source_of(reading: LogReading, lines: Lines, name: str) -> Source:
    """Return what a log told as a source."""
    return Source(name=name, told=reading.constants.rows(lines.told))


def _with_lines(rows: Iterable[Row]) -> Iterator[Row]:
    last = 1
    for row in rows:
        if row.heard:
            last = row.line
            yield row
        else:
            yield replace(row, line=last)


def tells_sent(lines: Lines) -> int:
    """Return how many numbered frames a log says went out, where it tells of nothing else."""
    if any(one.act not in (Act.SENT, Act.DAMAGED) for one in lines.told):
        return 0
    return sum(one.get(Meaning.SEQ) is not None for one in lines.told)


def unplaced_words(row: Row, reading: LogReading) -> str:
    """Return why a frame without rig or stop does not count, and what to do."""
    if not row.rig:
        return "The line names no rig and no sender. Say in the recipe which rig this log is of."
    if reading.timeline.stays:
        return "The frame lies between two stays of the timeline. Move a boundary if it belongs to one."
    return "The line names no stop. Say in the recipe where this log was made, or make a timeline."


def pieces_of(rows: Iterable[Row]) -> Iterator[LogPiece]:
    """Yield rows in checked pieces, as a frame log gives them."""
    stream = iter(rows)
    while part := list(islice(stream, PIECE)):
        tokens = [Tokens(Line(row.line, ""), _tokens(row)) for row in part]
        checked = check_rows(COLUMNS, tokens)
        yield LogPiece(blocks=checked.blocks, bad=checked.bad, last_line=part[-1].line, rows=tokens)


def _tokens(row: Row) -> list[str]:
    cells = row_cells(row)
    return ["" if cells[name] is None else str(cells[name]) for name in COLUMNS]


def texts_at(blocks: Iterable[bytes], numbers: set[int]) -> dict[int, str]:
    """Return the lines of some numbers as they stand in the log."""
    return {line.number: line.text for line in console_lines(blocks) if line.number in numbers}
