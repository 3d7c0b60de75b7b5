"""All of the bridge at once: sources into the spool, the spool to the app, a line that says how it stands."""

from __future__ import annotations

import threading
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from inchmark.devices.bridge.files import follow
from inchmark.devices.bridge.sender import Sender
from inchmark.devices.bridge.sources import Source, lines_of, start_name
from inchmark.devices.bridge.spool import Spool
from inchmark.devices.bridge.tally import Tallies

ANSWER_S = 2.0  # how long a board may take to answer what it is told
MOST_ANSWERED = 20  # lines


@dataclass(slots=True)
class Bridge:
    """Runs until it is stopped, or until sources that end have ended and all is sent."""

    spool: Spool
    sources: Sequence[Source]
    sender: Sender | None
    said: Callable[[str], None]
    stop: threading.Event = field(default_factory=threading.Event)
    start: str = field(default_factory=start_name)
    tell: Mapping[str, Sequence[str]] = field(default_factory=dict)  # lines to boards, by source
    tallies: Tallies = field(default_factory=Tallies)
    _heard: dict[str, list[bytes]] = field(default_factory=dict, init=False)
    _over: set[str] = field(default_factory=set, init=False)
    _beside: list[threading.Thread] = field(default_factory=list, init=False)

    def beside(self, work: Callable[[], None]) -> None:
        """Run something in a thread of its own beside the rest; it ends when `stop` is set."""
        thread = threading.Thread(target=work, daemon=True)
        self._beside.append(thread)
        thread.start()

    def run(self) -> None:
        """Read, keep and send."""
        readers = [self._begun(self._read, source) for source in self.sources]
        readers += [
            self._begun(self._tell, source) for source in self.sources if self.tell.get(source.name)
        ]
        sending, senders = threading.Event(), []
        if self.sender is not None:
            senders.append(self._begun(self.sender.run, sending))
        while not self.stop.wait(0.1):
            if not any(reader.is_alive() for reader in readers) and self._all_sent():
                break
        self.stop.set()
        for reader in [*readers, *self._beside]:
            reader.join(timeout=5)
        sending.set()
        for one in senders:
            one.join(timeout=35)

    @staticmethod
    def _begun(work: Callable[[Any], None], of: object) -> threading.Thread:
        thread = threading.Thread(target=work, args=(of,), daemon=True)
        thread.start()
        return thread

    def _all_sent(self) -> bool:
        if self.sender is None:
            return True
        lines = all(unsent == 0 for _, unsent in self.spool.counts().values())
        return lines and self.spool.next_read_back() is None

    def _read(self, source: Source) -> None:
        if source.path is not None:
            self._follow(source, source.path)
            return
        for lines in lines_of(source, self.stop, self.said):
            if lines:
                self.spool.keep(source.name, self.start, lines)
                talk = self.tallies.take(source.name, lines)
                if (heard := self._heard.get(source.name)) is not None:
                    heard.extend(talk)  # frames go on meanwhile; they are no answer

        self._over.add(source.name)

    def _follow(self, source: Source, path: Path) -> None:
        before = self.spool.place(source.name)
        for place, lines in follow(path, before, self.stop, self.said, start_name):
            self.spool.keep(source.name, place.start, lines, place)
            self.tallies.take(source.name, lines)

    def _tell(self, source: Source) -> None:
        """Say lines to a board one after the other, and keep what it prints after each."""
        for text in self.tell[source.name]:
            heard: list[bytes] = []
            self._heard[source.name] = heard
            source.asked.put(text.encode() + b"\r\n")
            while not source.asked.empty():  # until there is a lead to say it on
                if self.stop.wait(0.05) or source.name in self._over:
                    self.said(f"{source.name}: “{text}” was not said, no lead was there.")
                    return
            self.stop.wait(ANSWER_S)
            answered = b"\n".join(heard[:MOST_ANSWERED]).decode("utf-8", "replace")
            self.spool.keep_read_back(source.name, self.start, text, answered)
            self.said(f"{source.name}: told “{text}”, it answered “{answered or 'nothing'}”.")
        self._heard.pop(source.name, None)

    def words(self) -> str:
        """Return how it stands, a source after the other."""
        counts = self.spool.counts()
        parts = [
            f"{name}: {kept} lines, {unsent} unsent" for name, (kept, unsent) in counts.items()
        ]
        return "; ".join(parts) or "no line yet"
