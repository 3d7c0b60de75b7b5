"""Taking a log in: its bytes are kept whole before anything is read from them."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import timedelta
from itertools import repeat
from typing import Any

import numpy as np
from django.conf import settings
from django.db import transaction
from django.utils import timezone

from inchmark.studies.queue import queue_once
from inchmark.walk.models import FileChunk, FrameFile, ImportProgress, LineCorrection, Walk
from inchmark.walk.services.retention import refuse_without_lines

CHUNK_BYTES = 1 << 20
FILES_A_MINUTE = 30


class RefusedError(Exception):
    """A log is not taken in; the message is the sentence for the user."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Received:
    """The file, and whether the study had it already."""

    file: FrameFile
    known: bool


def receive(
    walk: Walk,
    *,
    name: str,
    blocks: Iterable[bytes],
    by: Any,
    kind: str = FrameFile.UPLOAD,
    queue: bool = True,
) -> Received:
    """Keep a log and queue its reading; the same bytes twice add nothing.

    A caller that reads it at once passes `queue=False`.

    Raises
    ------
    RefusedError
        Too large, empty, or too many in a minute.
    """
    _check_rate(by)
    name = "".join(c for c in name if c.isprintable())
    with transaction.atomic():
        file = FrameFile.objects.create(walk=walk, name=name[-200:] or "log", kind=kind, by=by)
        digest = keep_chunks(file, blocks)
        same = FrameFile.objects.filter(walk__study=walk.study_id, sha256=digest).first()
        if same:
            transaction.set_rollback(True)
            return Received(file=same, known=True)
        file.sha256 = digest
        file.save(update_fields=["sha256", "size_bytes"])
        ImportProgress.objects.create(file=file)
        if queue:
            queue_import(file)
    return Received(file=file, known=False)


def keep_chunks(file: FrameFile, blocks: Iterable[bytes]) -> str:
    """Store bytes as chunks of a megabyte and return their sha256."""
    digest, number = hashlib.sha256(), file.chunks.count()
    for chunk in _rechunk(blocks):
        digest.update(chunk)
        file.size_bytes += len(chunk)
        if file.size_bytes > settings.UPLOAD_LIMIT_BYTES:
            limit = settings.UPLOAD_LIMIT_BYTES // 2**20
            raise RefusedError(
                f"The log is over {limit} MB. Split it by walk or by day, and send the parts."
            )
        FileChunk.objects.create(file=file, number=number, data=chunk)
        number += 1
    if not file.size_bytes:
        raise RefusedError("The file is empty. Nothing was added.")
    return digest.hexdigest()


def pack_times(times_s: Sequence[float] | None) -> bytes | None:
    """Return times [s since 1970] as they are kept beside the lines they are of."""
    return None if times_s is None else np.asarray(times_s, dtype="<f8").tobytes()


def times_of(file: FrameFile) -> Iterator[float | None]:
    """Yield when each line of a log came [s since 1970], None where nobody said."""
    for data, came in file.chunks.values_list("data", "came").iterator(chunk_size=16):
        if came is None:
            yield from repeat(None, bytes(data).count(b"\n"))
        else:
            yield from np.frombuffer(bytes(came), dtype="<f8").tolist()


def _rechunk(blocks: Iterable[bytes]) -> Iterator[bytes]:
    held = bytearray()
    for block in blocks:
        held += block
        while len(held) >= CHUNK_BYTES:
            yield bytes(held[:CHUNK_BYTES])
            del held[:CHUNK_BYTES]
    if held:
        yield bytes(held)


def _check_rate(by: Any) -> None:
    recent = FrameFile.objects.filter(by=by, at__gt=timezone.now() - timedelta(minutes=1)).count()
    if recent >= FILES_A_MINUTE:
        raise RefusedError(
            f"That is {recent} logs in a minute. Wait a minute, or join them into one file."
        )


def queue_import(file: FrameFile) -> None:
    """Queue the reading of a file, in the same transaction that made it wait."""
    # one at a time for each study: another study's log need not wait, and no two write one visit
    queue_once(
        "inchmark.walk.tasks.import_file",
        "import",
        once=f"import-file-{file.pk}",
        alone=f"import-{file.walk.study_id}",
        file_id=file.pk,
    )


@transaction.atomic
def read_again(file: FrameFile) -> None:
    """Read a kept file from its first byte, with today's rigs, stops and corrections."""
    refuse_without_lines(file)
    file.state, file.problem = FrameFile.WAITING, ""
    file.save(update_fields=["state", "problem"])
    ImportProgress.objects.update_or_create(file=file, defaults={"done": 0, "frames": 0})
    queue_import(file)


@transaction.atomic
def correct_lines(file: FrameFile, texts: dict[int, str], *, by: Any) -> int:
    """Record what is to be read in place of lines, and read the file again.

    Return how many changed.
    """
    refuse_without_lines(file)
    known = dict(file.bad_lines.filter(line_number__in=texts).values_list("line_number", "text"))
    changed = {n: text for n, text in texts.items() if n in known and text != known[n]}
    LineCorrection.objects.bulk_create(
        LineCorrection(file=file, line_number=n, text=text[:4000], by=by)
        for n, text in changed.items()
    )
    if changed:
        read_again(file)
    return len(changed)


def header_of(file: FrameFile) -> str:
    """Return a file's first line, so that a line can be corrected with the columns in view."""
    first = file.chunks.first()
    start = bytes(first.data[:2000]) if first else b""
    return start.split(b"\n")[0].decode("utf-8", "replace").strip("\ufeff\r")[:400]


def file_bytes(
    file: FrameFile, *, ahead: int = 1, before: Callable[[], None] = lambda: None
) -> Iterator[bytes]:
    """Yield a file's bytes as they came, so many pieces read at once; `before` each such reading."""
    numbers = list(file.chunks.values_list("number", flat=True))
    for start in range(0, len(numbers), ahead):
        before()
        wanted = file.chunks.filter(number__in=numbers[start : start + ahead])
        for data in wanted.order_by("number").values_list("data", flat=True):
            yield bytes(data)
