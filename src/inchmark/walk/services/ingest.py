"""Reading a kept log into frames: all of a file or none of it, however the worker ends.

One transaction holds the frames, the bad lines and the visits' summaries. A worker killed in the
middle leaves nothing behind but the file, and its job is taken up again.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import partial
from itertools import compress
from typing import Any

import numpy as np
from django.db import connections, transaction
from django.utils import timezone

from inchmark.core.reception.passes import PassCounter, VisitKey
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log import lines as lines_of
from inchmark.formats.frame_log.reader import LogPiece, read_frame_log
from inchmark.formats.frame_log.rows import FrameBlock
from inchmark.formats.frame_log.visits import visits_in
from inchmark.studies.services import touch
from inchmark.walk.adapters.logs import reading_of
from inchmark.walk.models import BadLine, Frame, FrameFile, Visit
from inchmark.walk.querysets import FrameCopy
from inchmark.walk.services import by_line, by_recipe
from inchmark.walk.services.receive import file_bytes, times_of
from inchmark.walk.services.senders import read_with_sender, senders_of
from inchmark.walk.services.summaries import summarise

KEPT_BAD_LINES = 5_000  # shown one by one; the rest are counted, and the file keeps every line
STREAMED_BYTES = 40_000_000  # a longer log is placed line by line, a shorter one as a whole
PIECES_AHEAD = 8  # pieces of a megabyte read at once, so that the copy is seldom put off for them
_NULL = "\\N"
_RESULT = ("state", "problem", "frame_count", "bad_count", "read_at")
_NUMBER_COLUMNS = ("rssi_dbm", "snr_db", "noise_dbm", "lat", "lon")


def import_frames(file_id: int) -> FrameFile:
    """Read a file into frames; one that cannot be read says why, one set aside stays aside."""
    file: FrameFile = FrameFile.objects.select_related("walk__study").get(pk=file_id)
    try:
        with transaction.atomic():
            FrameFile.objects.alone_with(file_id)
            said = ["recipe", "said", "aside_reason", "let_go_at"]
            file.refresh_from_db(fields=said)  # said meanwhile
            if file.let_go_at:
                return file  # without its lines there is nothing to read it from
            if file.aside_reason:
                file.state = FrameFile.ASIDE
                file.save(update_fields=["state"])
            else:
                _replace(file)
    except UnreadableFileError as wrong:
        file.state, file.problem = FrameFile.FAILED, str(wrong)[:600]
        file.save(update_fields=["state", "problem"])
    return file


def _replace(file: FrameFile) -> None:
    """Take out what an earlier reading of this file gave, and put in what it gives now."""
    before = (
        set(Frame.objects.filter(file=file).values_list("visit_id", flat=True).distinct())
        if file.read_at
        else set()
    )
    FrameFile.objects.clear(file.pk)
    corrections = dict(file.corrections.values_list("line_number", "text"))
    with FrameCopy() as out, _progress_of(file) as tell:
        work = _Import(file, out)
        for piece in _pieces(file, work, corrections):
            work.take(piece)
            tell(work.bytes_read, work.frames)
        out.pause()
    work.finish()
    visits = Visit.objects.filter(pk__in=before | work.touched)
    summarise(visits.select_related("rig", "walk"))
    file.state, file.problem = FrameFile.READ, ""
    file.frame_count, file.bad_count, file.read_at = work.frames, work.bad, timezone.now()
    file.no_frame_count, file.sent_count = work.no_frames, work.sent
    file.unknown = {kind: dict(names.most_common(200)) for kind, names in work.unknown.items()}
    file.save(update_fields=[*_RESULT, "no_frame_count", "sent_count", "unknown"])
    if work.sent:
        read_with_sender(file)
    touch(file.walk.study)


def _pieces(file: FrameFile, work: _Import, corrections: dict[int, str]) -> Iterator[LogPiece]:
    """Yield what the file gives: as our frame log, or by its recipe."""
    blocks = work.counted(file_bytes(file, ahead=PIECES_AHEAD, before=work.out.pause))
    if file.recipe is None:
        yield from read_frame_log(blocks, corrections=corrections)
        return
    reading = reading_of(file)
    events = by_recipe.events_of(reading, blocks, corrections, times_of(file))
    if file.size_bytes > STREAMED_BYTES:
        streamed = by_line.Streamed(reading)
        yield from streamed.pieces(events)
        work.no_frames = streamed.no_frames
        return
    lines = by_recipe.sorted_lines(events)
    work.no_frames, work.positions = lines.no_frames, lines.positions
    work.sent = by_recipe.tells_sent(lines)
    if work.sent:
        yield LogPiece(bad=[])
        return
    rows, unplaced = by_recipe.placed_rows(reading, lines, file.name, senders_of(file))
    damaged = [lines_of.BadLine(one.number, one.text, one.reason) for one in lines.damaged]
    yield LogPiece(bad=sorted([*damaged, *unplaced], key=lambda bad: bad.number))
    yield from by_recipe.pieces_of(rows)


@dataclass
class _Import:
    """One pass over a file."""

    file: FrameFile
    out: FrameCopy
    frames: int = 0
    bad: int = 0
    bytes_read: int = 0
    no_frames: int = 0
    sent: int = 0  # of a sender's own log
    positions: int = 0
    refused: set[int] = field(default_factory=set)
    touched: set[int] = field(default_factory=set)
    unknown: dict[str, Counter[str]] = field(
        default_factory=lambda: {"rigs": Counter(), "stops": Counter()}
    )

    def __post_init__(self) -> None:
        study = self.file.walk.study
        self.rigs: dict[str, int] = {}
        for pk, letter, log_name in study.rigs.values_list("pk", "letter", "log_name"):
            self.rigs |= {letter.lower(): pk, letter: pk}
            if log_name:
                self.rigs[log_name] = pk
        self.stops = dict(study.stops.values_list("label", "pk"))
        names = self.file.said.get("names", {})
        letters, labels = dict(self.rigs), dict(self.stops)
        self.rigs |= {n: letters[to] for n, to in names.get("rigs", {}).items() if to in letters}
        self.stops |= {n: labels[to] for n, to in names.get("stops", {}).items() if to in labels}
        self.visits: dict[VisitKey, int] = {}
        self.kept: list[BadLine] = []
        self.passes = PassCounter()

    def counted(self, blocks: Iterator[bytes]) -> Iterator[bytes]:
        for block in blocks:
            self.bytes_read += len(block)
            yield block

    def take(self, piece: LogPiece) -> None:
        for bad in piece.bad:
            self.refuse(bad)
        for block in piece.blocks:
            self._take_block(piece, block)

    def refuse(self, bad: lines_of.BadLine) -> None:
        if bad.number in self.refused:
            return  # a line may tell of several receivers
        self.bad += 1
        if self.bad <= KEPT_BAD_LINES:
            self.refused.add(bad.number)
            self.kept.append(
                BadLine(
                    file=self.file, line_number=bad.number, text=bad.text, reason=bad.reason[:400]
                )
            )

    def _take_block(self, piece: LogPiece, block: FrameBlock) -> None:
        visit_ids = np.zeros(len(block), dtype=np.int64)
        visits = visits_in(block)
        passes = self.passes.number(visits, len(block), block.number.get("pass"))
        for key, rows in visits.items():
            reason = self._unknown(key, len(rows))
            if reason:
                texts = piece.texts()
                for number in block.line[rows].tolist():
                    self.refuse(lines_of.BadLine(number, texts.get(number, ""), reason))
            else:
                visit_ids[rows] = self._visit(key)
        if np.any(visit_ids):
            self.frames += _copy(self.out, self.file.pk, visit_ids, passes, block)

    def _unknown(self, key: VisitKey, frames: int) -> str:
        for kind, name, known in (("rigs", key.rig, self.rigs), ("stops", key.stop, self.stops)):
            if name not in known:
                self.unknown[kind][name] += frames
        if key.rig not in self.rigs:
            return f"There is no rig {key.rig} here. Add it or correct the line, then read again."
        if key.stop not in self.stops:
            return f"Stop {key.stop} has no distance. Add it or correct the line, then read again."
        return ""

    def _visit(self, key: VisitKey) -> int:
        if key not in self.visits:
            self.out.pause()
            visit, _ = Visit.objects.get_or_create(
                walk=self.file.walk,
                rig_id=self.rigs[key.rig],
                stop_id=self.stops[key.stop],
                condition=key.condition,
                direction=key.direction,
                receiver=key.receiver,
            )
            self.visits[key] = visit.pk
            self.touched.add(visit.pk)
        return self.visits[key]

    def finish(self) -> None:
        if not any((self.frames, self.bad, self.sent, self.positions)):
            raise UnreadableFileError("The file has a header but no frames.")
        if self.file.recipe is not None:
            bare = {bad.line_number for bad in self.kept if not bad.text}
            texts = by_recipe.texts_at(file_bytes(self.file), bare) if bare else {}
            for bad in self.kept:
                bad.text = lines_of.BadLine(0, bad.text or texts.get(bad.line_number, ""), "").text
        BadLine.objects.bulk_create(self.kept, batch_size=500)


def _copy(
    out: FrameCopy, file_id: int, visit_ids: np.ndarray, passes: np.ndarray, block: FrameBlock
) -> int:
    """COPY the rows that belong to a visit; return how many."""
    keep = (visit_ids > 0).tolist()
    columns: dict[str, Sequence[str]] = {
        "visit_id": list(map(str, visit_ids.tolist())),
        "line_number": list(map(str, block.line.tolist())),
        "pass_number": list(map(str, passes.tolist())),
        "seq": list(map(str, block.seq.tolist())),
        "heard": ["t" if heard else "f" for heard in block.heard.tolist()],
    }
    for name in _NUMBER_COLUMNS:
        if name in block.number:
            columns[name] = _number_tokens(block.number[name])
    if "hops" in block.number:
        columns["hops"] = [_NULL if x != x else str(int(x)) for x in block.number["hops"].tolist()]
    if np.any(np.isfinite(block.time_s)):
        columns["time"] = _time_tokens(block.time_s)
    columns["source"] = (
        _escaped(block.text["source"]) if "source" in block.text else [""] * len(block)
    )
    columns["file_id"] = [str(file_id)] * len(block)
    rows: Iterable[str] = map("\t".join, zip(*columns.values(), strict=True))
    if not all(keep):
        rows = compress(rows, keep)
    out.write(list(columns), rows)
    return sum(keep)


def _number_tokens(values: np.ndarray) -> list[str]:
    """Return the numbers as they are written; levels are few, so each is written once."""
    few, of_row = np.unique(values, return_inverse=True)
    written = np.array([_NULL if x != x else repr(x) for x in few.tolist()], dtype=object)
    tokens: list[str] = written[of_row].tolist()
    return tokens


def _time_tokens(times_s: np.ndarray) -> list[str]:
    known = np.isfinite(times_s)
    moments = np.round(np.where(known, times_s, 0.0) * 1e6).astype("datetime64[us]")
    tokens = np.char.add(np.datetime_as_string(moments), "Z").astype(object)
    tokens[~known] = _NULL
    found: list[str] = tokens.tolist()
    return found


def _escaped(tokens: Sequence[str]) -> list[str]:
    return [token.replace("\\", "\\\\") for token in tokens]


class _progress_of:  # noqa: N801 - reads as a verb where it is used
    """Writes progress through a connection of its own, so that it is seen while the import is not."""

    def __init__(self, file: FrameFile) -> None:
        self.file = file

    def __enter__(self) -> Any:
        self.connection = connections.create_connection("default")
        return partial(self._tell)

    def _tell(self, done: int, frames: int) -> None:
        FrameFile.objects.tell_progress(self.connection, self.file.pk, done=done, frames=frames)

    def __exit__(self, *exc: object) -> None:
        self.connection.close()
