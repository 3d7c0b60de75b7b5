"""Lines to the app in batches, again and again until they are there; the app numbers them, so none doubles."""

from __future__ import annotations

import json
import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

from inchmark.devices.bridge.door import AnsweredError, Door
from inchmark.devices.bridge.spool import Batch, ReadBack, Spool

MOST_LINES = 500
WAITS_S = (0.2, 0.5, 1.0, 2.0, 5.0, 10.0)
QUIET_S = 0.2
READ_BACKS = "\0read-backs"  # stands for them among the names of sources
UNPROCESSABLE = 422
HANDS = 3  # sources whose lines go out side by side: a board need not wait for another’s answer


@dataclass(slots=True)
class Sender:
    """Takes lines from a spool and posts them; `constants` by source are sent with every batch."""

    spool: Spool
    url: str
    token: str
    said: Callable[[str], None]
    constants: Mapping[str, Mapping[str, str]] = field(default_factory=dict)
    # sources whose lines were there before we read them, so that nobody knows when they came
    untimed: frozenset[str] = frozenset()
    waits: tuple[float, ...] = WAITS_S
    failures: int = 0
    trouble: str = ""
    door: Door = field(init=False)
    _busy: set[str] = field(default_factory=set, init=False)  # sources whose lines are on their way
    _lock: threading.Lock = field(default_factory=threading.Lock, init=False)

    def __post_init__(self) -> None:
        """Refuse an address that is none."""
        self.door = Door(self.url, self.token)

    def run(self, stop: threading.Event) -> None:
        """Send until told to stop, the lines of several sources side by side."""
        others = [
            threading.Thread(target=self._run, args=(stop,), daemon=True) for _ in range(HANDS - 1)
        ]
        for one in others:
            one.start()
        self._run(stop)
        for one in others:
            one.join(timeout=35)

    def _run(self, stop: threading.Event) -> None:
        try:
            self._send_on(stop)
        finally:
            self.door.close()

    def _send_on(self, stop: threading.Event) -> None:
        while not stop.is_set():
            seen = self.spool.kept
            wait = self.step()
            if wait and not self.failures:  # nothing to send: until there is, or a read-back comes
                self.spool.wait_for_more(seen, wait)
            else:
                stop.wait(wait)

    def step(self) -> float:
        """Send one batch; return how many seconds to wait before the next."""
        with self._lock:
            batch = self.spool.next_batch(MOST_LINES, besides=self._busy)
            next_one = batch or self.spool.next_read_back()
            name = batch.source if batch else READ_BACKS
            if next_one is None or name in self._busy:
                return QUIET_S
            self._busy.add(name)
        try:
            if isinstance(next_one, Batch):
                return self._send(next_one)
            return self._send_read_back(next_one)
        finally:
            with self._lock:
                self._busy.discard(name)

    def _send(self, batch: Batch) -> float:
        try:
            answer = self._post(batch)
        except AnsweredError as wrong:
            return self._refused(batch, wrong)
        except (OSError, ValueError) as wrong:
            return self._failed(
                f"{self.url} does not answer ({wrong}). Lines are kept on this machine."
            )
        self.spool.sent(batch, int(answer["through"]))
        if self.trouble:
            self.said("The app answers again.")
        self.failures, self.trouble = 0, ""
        return 0.0

    def _send_read_back(self, one: ReadBack) -> float:
        """Send what a board answered; one that the app does not take stays on this machine."""
        at = datetime.fromtimestamp(one.at, UTC).isoformat()
        body = {"source": one.source, "at": at, "asked": one.asked, "answered": one.answered}
        try:
            self.door.ask(f"{self.url.rsplit('/', 1)[0]}/read-backs", body)
        except AnsweredError as wrong:
            words = _sentence(wrong.words)
            if wrong.code != UNPROCESSABLE:
                return self._failed(f"{self.url} answered {wrong.code}: {words}")
            self.said(f"The app does not take what {one.source} answered: {words}")
        except (OSError, ValueError) as wrong:
            return self._failed(
                f"{self.url} does not answer ({wrong}). Lines are kept on this machine."
            )
        self.spool.read_back_sent(one)
        return 0.0

    def _refused(self, batch: Batch, wrong: AnsweredError) -> float:
        words = wrong.words
        if wrong.code == 409:  # the app lacks lines before these: send from there
            try:
                wanted = int(json.loads(words)["wanted"])
            except (ValueError, KeyError, TypeError):
                wanted = 1
            try:
                answer = self._post(self.spool.lines_from(batch, wanted, MOST_LINES))
                self.spool.sent(batch, int(answer["through"]))
            except (OSError, ValueError, AnsweredError) as again:
                return self._failed(f"{self.url}: {again}.")
            return 0.0
        return self._failed(
            f"{self.url} answered {wrong.code}: {_sentence(words)} Lines are kept on this machine."
        )

    def _failed(self, words: str) -> float:
        if words != self.trouble:
            self.said(words)
            self.trouble = words
        wait = self.waits[min(self.failures, len(self.waits) - 1)]
        self.failures += 1
        return wait

    def _post(self, batch: Batch) -> dict[str, Any]:
        body = {
            "source": batch.source,
            "start": batch.start,
            "first": batch.first,
            "lines": [_text(line) for line in batch.lines],
            "constants": dict(self.constants.get(batch.source, {})),
            "at": datetime.fromtimestamp(batch.at, UTC).isoformat(),
        }
        if batch.source not in self.untimed:
            body["came"] = list(batch.times)
        return self.door.ask(self.url, body)


def _text(line: bytes) -> str:
    """Return a line as text; bytes that are no UTF-8 as they stand in Latin-1, so that none is lost."""
    try:
        return line.decode("utf-8")
    except UnicodeDecodeError:
        return line.decode("latin-1")


def _sentence(words: str) -> str:
    try:
        return str(json.loads(words)["detail"])
    except (ValueError, KeyError, TypeError):
        return words[:200]
