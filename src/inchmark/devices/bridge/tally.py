"""What has come of each source, for whoever stands beside the laptop: lines, frames, the last RSSI.

Frames are counted by a recipe proposed from the first lines, the one the app would propose; it is
for looking at only, and changes nothing that is kept.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC

from inchmark.core.recipe.names import Act, Meaning
from inchmark.core.recipe.propose import propose
from inchmark.core.recipe.reader import Clocking, Reader, Told

ENOUGH_LINES, MOST_LINES = 12, 500  # before a recipe is proposed; after which it is given up
STEP_LINES = 25  # after which it is tried once more


@dataclass(slots=True)
class Tally:
    """One source: its lines, the frames among them (None while nobody knows), the last RSSI [dBm]."""

    lines: int = 0
    frames: int | None = None
    rssi_dbm: float | None = None
    at: float = 0.0  # when the last line came
    _held: list[str] = field(default_factory=list)
    _reader: Reader | None = None
    _next_try: int = ENOUGH_LINES

    def take(self, lines: Sequence[bytes]) -> None:
        """Count lines as they come."""
        texts = [line.decode("utf-8", "replace") for line in lines]
        self.at = time.monotonic()
        if self._reader is None and self.lines < MOST_LINES:
            self._held += texts
            if len(self._held) >= self._next_try:
                self._try()
        elif self._reader is not None:
            self._count(texts, self.lines)
        self.lines += len(texts)

    def _try(self) -> None:
        self._next_try = len(self._held) + STEP_LINES
        proposal = propose(self._held)
        if proposal.frames:
            self._reader, self.frames = Reader(proposal.recipe, Clocking(zone=UTC, anchor_s=0.0)), 0
            self._count(self._held, 0)
            self._held = []

    def _count(self, texts: Sequence[str], before: int) -> None:
        reader = self._reader
        if reader is None:
            return
        for number, text in enumerate(texts, before + 1):
            for event in reader.read(number, text):
                if isinstance(event, Told) and event.act is not Act.SENT:
                    self.frames = (self.frames or 0) + 1
                    self.rssi_dbm = event.get(Meaning.RSSI, self.rssi_dbm)


class Tallies:
    """All sources, fed by their threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._own: dict[str, Tally] = {}

    def take(self, source: str, lines: Sequence[bytes]) -> None:
        """Count lines of a source."""
        with self._lock:
            self._own.setdefault(source, Tally()).take(lines)

    def rows(self) -> dict[str, tuple[int, int | None, float | None, float]]:
        """Return lines, frames, the last RSSI [dBm] and seconds since the last line by source."""
        now = time.monotonic()
        with self._lock:
            return {
                name: (one.lines, one.frames, one.rssi_dbm, now - one.at)
                for name, one in self._own.items()
            }
