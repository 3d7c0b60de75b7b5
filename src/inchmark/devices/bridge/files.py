"""A file followed as it grows, from where the bridge had come when it was last stopped or killed.

The place in the file is kept together with the lines, so that neither is there without the other. A
file that was cut, exchanged or written anew is another start of the source.
"""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import IO, NamedTuple

MAX_LINE_BYTES = 65_536
PIECE_BYTES = 1 << 20
LOOK_S = 0.3
SETTLED_S = 2.0  # after which a last line without an end is taken for whole when we stop
TAIL_BYTES = 64


class Place(NamedTuple):
    """How far a file was read: the start it belongs to, its inode, bytes, and the last of them."""

    start: str
    inode: int
    offset: int
    tail: bytes


Piece = tuple[Place, list[bytes]]


def follow(
    path: Path,
    place: Place | None,
    stop: threading.Event,
    said: Callable[[str], None],
    start_name: Callable[[], str],
) -> Iterator[Piece]:
    """Yield lines with the place after them until told to stop; a missing file is waited for."""
    told, changed = "", time.monotonic()
    while not stop.is_set():
        try:
            place, lines = _next(path, place, start_name)
        except OSError as wrong:
            words = f"{path}: {wrong.strerror or wrong}. It is tried again until it is there."
            if words != told:
                said(words)
                told = words
            lines = []
        if lines and place is not None:
            told, changed = "", time.monotonic()
            yield place, lines
        else:
            stop.wait(LOOK_S)
    if place is not None and time.monotonic() - changed >= SETTLED_S:
        yield from _rest(path, place)


def _next(
    path: Path, place: Place | None, start_name: Callable[[], str]
) -> tuple[Place, list[bytes]]:
    with path.open("rb") as file:
        place = _still(file, place) or Place(start_name(), os.fstat(file.fileno()).st_ino, 0, b"")
        file.seek(place.offset)
        data = file.read(PIECE_BYTES)
    end = data.rfind(b"\n") + 1
    if not end and len(data) > MAX_LINE_BYTES:  # a line without an end is cut at the limit
        end = MAX_LINE_BYTES
    return _after(place, data[:end])


def _still(file: IO[bytes], place: Place | None) -> Place | None:
    """Return the place if the file is still the one it was kept of, with the same bytes before it."""
    if place is None:
        return None
    stat = os.fstat(file.fileno())
    if stat.st_ino != place.inode or stat.st_size < place.offset:
        return None
    file.seek(place.offset - len(place.tail))
    return place if file.read(len(place.tail)) == place.tail else None


def _after(place: Place, taken: bytes) -> tuple[Place, list[bytes]]:
    lines = taken.replace(b"\r\n", b"\n").split(b"\n")
    if lines and not lines[-1]:
        lines.pop()
    tail = (place.tail + taken)[-TAIL_BYTES:]
    return place._replace(offset=place.offset + len(taken), tail=tail), lines


def _rest(path: Path, place: Place) -> Iterator[Piece]:
    try:
        with path.open("rb") as file:
            if _still(file, place):
                file.seek(place.offset)
                data = file.read(MAX_LINE_BYTES)
                if data:
                    yield _after(place, data)
    except OSError:
        return
