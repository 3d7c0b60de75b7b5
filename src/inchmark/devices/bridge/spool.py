"""Lines kept on disk before anything else is done with them; each goes out once."""

from __future__ import annotations

import json
import sqlite3
import threading
import time
from collections.abc import Collection, Sequence
from pathlib import Path
from typing import NamedTuple

from inchmark.devices.bridge.files import Place

_TABLES = """
CREATE TABLE IF NOT EXISTS line (
    id INTEGER PRIMARY KEY, source TEXT NOT NULL, start TEXT NOT NULL, number INTEGER NOT NULL,
    at REAL NOT NULL, text BLOB NOT NULL, sent INTEGER NOT NULL DEFAULT 0,
    UNIQUE (source, start, number)
);
CREATE INDEX IF NOT EXISTS unsent ON line (id) WHERE sent = 0;
CREATE TABLE IF NOT EXISTS place (
    source TEXT PRIMARY KEY, start TEXT NOT NULL, inode INTEGER NOT NULL, offset INTEGER NOT NULL, tail BLOB NOT NULL
);
CREATE TABLE IF NOT EXISTS read_back (
    id INTEGER PRIMARY KEY, source TEXT NOT NULL, start TEXT NOT NULL, at REAL NOT NULL,
    asked TEXT NOT NULL, answered TEXT NOT NULL, sent INTEGER NOT NULL DEFAULT 0
);
"""


class Batch(NamedTuple):
    """Lines of one source in order: the number of the first, when it came, and their bytes."""

    source: str
    start: str
    first: int
    lines: list[bytes]
    at: float = 0.0
    times: tuple[float, ...] = ()  # when each came


class ReadBack(NamedTuple):
    """What a board was told and what it answered."""

    number: int
    source: str
    start: str
    at: float
    asked: str
    answered: str


class Spool:
    """A file of lines: what is written here outlives a killed bridge and a dead battery."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.lock = threading.Lock()
        self.fresh, self.kept = threading.Condition(), 0  # how often something was kept
        self.line = sqlite3.connect(path, check_same_thread=False, timeout=30)
        self.line.execute("PRAGMA journal_mode = WAL")
        self.line.execute("PRAGMA synchronous = FULL")
        self.line.executescript(_TABLES)

    def keep(
        self, source: str, start: str, lines: Sequence[bytes], place: Place | None = None
    ) -> None:
        """Add lines of a source, numbered on from its last; with the place in its file after them."""
        with self.lock, self.line:
            last = self.line.execute(
                "SELECT coalesce(max(number), 0) FROM line WHERE source = ? AND start = ?",
                (source, start),
            ).fetchone()[0]
            now = time.time()
            self.line.executemany(
                "INSERT INTO line (source, start, number, at, text) VALUES (?, ?, ?, ?, ?)",
                [(source, start, last + i, now, text) for i, text in enumerate(lines, 1)],
            )
            if place is not None:
                self.line.execute(
                    "INSERT OR REPLACE INTO place VALUES (?, ?, ?, ?, ?)", (source, *place)
                )
        with self.fresh:
            self.kept += 1
            self.fresh.notify_all()

    def wait_for_more(self, seen: int, seconds: float) -> None:
        """Wait until something was kept since `kept` was seen, so many seconds at most."""
        with self.fresh:
            self.fresh.wait_for(lambda: self.kept != seen, seconds)

    def place(self, source: str) -> Place | None:
        """Return how far the file of a source was read; None where none was."""
        with self.lock:
            row = self.line.execute(
                "SELECT start, inode, offset, tail FROM place WHERE source = ?", (source,)
            ).fetchone()
        return Place(row[0], row[1], row[2], bytes(row[3])) if row else None

    def next_batch(self, most: int, besides: Collection[str] = ()) -> Batch | None:
        """Return the oldest lines that have not gone out, of one source not named; None for none."""
        with self.lock:
            first = self.line.execute(
                "SELECT source, start, number FROM line WHERE sent = 0 "
                "AND source NOT IN (SELECT value FROM json_each(?)) ORDER BY id LIMIT 1",
                (json.dumps(list(besides)),),
            ).fetchone()
            if first is None:
                return None
            source, start, number = first
        return self._batch(source, start, number, most)

    def sent(self, batch: Batch, through: int) -> None:
        """Mark the lines of a batch's source as gone out, up to a number."""
        with self.lock, self.line:
            self.line.execute(
                "UPDATE line SET sent = 1 WHERE source = ? AND start = ? AND number <= ? AND sent = 0",
                (batch.source, batch.start, through),
            )

    def lines_from(self, batch: Batch, first: int, most: int) -> Batch:
        """Return lines of a batch's source from a number on, sent before or not."""
        return self._batch(batch.source, batch.start, first, most)

    def _batch(self, source: str, start: str, first: int, most: int) -> Batch:
        with self.lock:
            rows = self.line.execute(
                "SELECT text, at FROM line WHERE source = ? AND start = ? AND number >= ? ORDER BY number LIMIT ?",
                (source, start, first, most),
            ).fetchall()
        return Batch(
            source,
            start,
            first,
            [bytes(row[0]) for row in rows],
            rows[0][1] if rows else 0.0,
            tuple(row[1] for row in rows),
        )

    def counts(self) -> dict[str, tuple[int, int]]:
        """Return lines kept and unsent by source."""
        with self.lock:
            rows = self.line.execute(
                "SELECT source, count(*), sum(sent = 0) FROM line GROUP BY source"
            ).fetchall()
        return {source: (kept, unsent) for source, kept, unsent in rows}

    def keep_read_back(self, source: str, start: str, asked: str, answered: str) -> None:
        """Add what a board was told, and its answer."""
        with self.lock, self.line:
            self.line.execute(
                "INSERT INTO read_back (source, start, at, asked, answered) VALUES (?, ?, ?, ?, ?)",
                (source, start, time.time(), asked, answered),
            )

    def next_read_back(self) -> ReadBack | None:
        """Return the oldest read-back that has not gone out."""
        with self.lock:
            row = self.line.execute(
                "SELECT id, source, start, at, asked, answered FROM read_back WHERE sent = 0 ORDER BY id LIMIT 1"
            ).fetchone()
        return ReadBack(*row) if row else None

    def read_back_sent(self, one: ReadBack) -> None:
        """Mark a read-back as gone out."""
        with self.lock, self.line:
            self.line.execute("UPDATE read_back SET sent = 1 WHERE id = ?", (one.number,))

    def close(self) -> None:
        """Close the file."""
        with self.lock:
            self.line.close()
