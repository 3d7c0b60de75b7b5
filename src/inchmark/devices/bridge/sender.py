"""Lines to the app in batches, again and again until they are there; the app numbers them, so none doubles."""

from __future__ import annotations

import json
import threading
import urllib.error
import urllib.request
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any

from inchmark.devices.bridge.spool import Batch, ReadBack, Spool

MOST_LINES = 500
WAITS_S = (0.2, 0.5, 1.0, 2.0, 5.0, 10.0)
QUIET_S = 0.2
UNPROCESSABLE = 422


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

    def __post_init__(self) -> None:
        """Refuse an address that is none."""
        if not self.url.startswith(("http://", "https://")):
            raise ValueError(f"{self.url} must start with http:// or https://")

    def run(self, stop: threading.Event) -> None:
        """Send until told to stop."""
        while not stop.is_set():
            self.spool.fresh.clear()
            wait = self.step()
            if wait and not self.failures:  # nothing to send: until there is, or a read-back comes
                self.spool.fresh.wait(wait)
            else:
                stop.wait(wait)

    def step(self) -> float:
        """Send one batch; return how many seconds to wait before the next."""
        batch = self.spool.next_batch(MOST_LINES)
        if batch is None:
            one = self.spool.next_read_back()
            return QUIET_S if one is None else self._send_read_back(one)
        try:
            answer = self._post(batch)
        except urllib.error.HTTPError as wrong:
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
            self._ask(f"{self.url.rsplit('/', 1)[0]}/read-backs", body)
        except urllib.error.HTTPError as wrong:
            words = _sentence(wrong.read(2000).decode("utf-8", "replace"))
            if wrong.code != UNPROCESSABLE:
                return self._failed(f"{self.url} answered {wrong.code}: {words}")
            self.said(f"The app does not take what {one.source} answered: {words}")
        except (OSError, ValueError) as wrong:
            return self._failed(
                f"{self.url} does not answer ({wrong}). Lines are kept on this machine."
            )
        self.spool.read_back_sent(one)
        return 0.0

    def _refused(self, batch: Batch, wrong: urllib.error.HTTPError) -> float:
        words = wrong.read(2000).decode("utf-8", "replace")
        if wrong.code == 409:  # the app lacks lines before these: send from there
            try:
                wanted = int(json.loads(words)["wanted"])
            except (ValueError, KeyError, TypeError):
                wanted = 1
            try:
                answer = self._post(self.spool.lines_from(batch, wanted, MOST_LINES))
                self.spool.sent(batch, int(answer["through"]))
            except (OSError, ValueError) as again:
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
        return self._ask(self.url, body)

    def _ask(self, url: str, body: dict[str, Any]) -> dict[str, Any]:
        request = urllib.request.Request(  # noqa: S310 - the scheme is checked above
            url,
            data=json.dumps(body).encode(),
            method="POST",
            headers={"Authorization": f"Bearer {self.token}", "Content-Type": "application/json"},
        )
        with urllib.request.urlopen(request, timeout=30) as answer:  # noqa: S310
            return dict(json.loads(answer.read()))


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
