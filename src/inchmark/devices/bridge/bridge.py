"""All of the bridge at once: sources into the spool, the spool to the app, a line that says how it stands."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from inchmark.devices.bridge.sender import Sender
from inchmark.devices.bridge.sources import Source, lines_of, start_name
from inchmark.devices.bridge.spool import Spool

TELL_S = 5.0


@dataclass(slots=True)
class Bridge:
    """Runs until it is stopped, or until sources that end have ended and all is sent."""

    spool: Spool
    sources: Sequence[Source]
    sender: Sender | None
    said: Callable[[str], None]
    stop: threading.Event = field(default_factory=threading.Event)
    start: str = field(default_factory=start_name)

    def run(self) -> None:
        """Read, keep and send."""
        readers = [
            threading.Thread(target=self._read, args=(source,), daemon=True)
            for source in self.sources
        ]
        sending = threading.Event()
        threads = list(readers)
        if self.sender is not None:
            threads.append(threading.Thread(target=self.sender.run, args=(sending,), daemon=True))
        for thread in threads:
            thread.start()
        while not self.stop.wait(0.1):
            if not any(reader.is_alive() for reader in readers) and self._all_sent():
                break
        self.stop.set()
        for reader in readers:
            reader.join(timeout=5)
        sending.set()
        for thread in threads[len(readers) :]:
            thread.join(timeout=35)

    def _all_sent(self) -> bool:
        return self.sender is None or all(unsent == 0 for _, unsent in self.spool.counts().values())

    def _read(self, source: Source) -> None:
        for lines in lines_of(source, self.stop, self.said):
            if lines:
                self.spool.keep(source.name, self.start, lines)

    def words(self) -> str:
        """Return how it stands, a source after the other."""
        counts = self.spool.counts()
        parts = [
            f"{name}: {kept} lines, {unsent} unsent" for name, (kept, unsent) in counts.items()
        ]
        return "; ".join(parts) or "no line yet"
