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

    def take(self, lines: Sequence[bytes]) -> list[bytes]:
        """Count lines as they come; return those that are no frames, as far as that is known yet."""
        texts = [line.decode("utf-8", "replace") for line in lines]
        before, frames = self.lines, set[int]()
        self.at, self.lines = time.monotonic(), before + len(texts)
        if self._reader is not None:
            frames = self._count(self._reader, texts, before)
        elif before < MOST_LINES:
            self._held += texts
            if len(self._held) >= self._next_try:
                frames = self._try()
        return [line for number, line in enumerate(lines, before + 1) if number not in frames]

    def _try(self) -> set[int]:
        self._next_try = len(self._held) + STEP_LINES
        proposal = propose(self._held)
        if not proposal.frames:
            return set()
        self._reader, self.frames = Reader(proposal.recipe, Clocking(zone=UTC, anchor_s=0.0)), 0
        held, self._held = self._held, []
        return self._count(self._reader, held, 0)

    def _count(self, reader: Reader, texts: Sequence[str], before: int) -> set[int]:
        """Count the frames that lines tell of; return the numbers of those lines."""
        found = set()
        for number, text in enumerate(texts, before + 1):
            for event in reader.read(number, text):
                if isinstance(event, Told) and event.act is not Act.SENT:
                    found.add(number)
                    self.frames = (self.frames or 0) + 1
                    self.rssi_dbm = event.get(Meaning.RSSI, self.rssi_dbm)
        return found


class Tallies:
    """All sources, fed by their threads."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._own: dict[str, Tally] = {}

    def take(self, source: str, lines: Sequence[bytes]) -> list[bytes]:
        """Count lines of a source; return those that are no frames, as far as that is known yet."""
        with self._lock:
            return self._own.setdefault(source, Tally()).take(lines)

    def rows(self) -> dict[str, tuple[int, int | None, float | None, float]]:
        """Return lines, frames, the last RSSI [dBm] and seconds since the last line by source."""
        now = time.monotonic()
        with self._lock:
            return {
                name: (one.lines, one.frames, one.rssi_dbm, now - one.at)
                for name, one in self._own.items()
            }
