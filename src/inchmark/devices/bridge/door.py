"""The app's HTTP API over lines that stay open: one a thread, begun anew where it was closed."""

from __future__ import annotations

import contextlib
import http.client
import json
import ssl
import threading
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import urlsplit

TIMEOUT_S = 30
OK = range(200, 300)


class AnsweredError(Exception):
    """The app answered, and not with yes: its status and words."""

    def __init__(self, code: int, words: str) -> None:
        super().__init__(f"{code}: {words}")
        self.code, self.words = code, words


@dataclass(slots=True)
class Door:
    """Where an app takes things in, with the token that lets us."""

    url: str
    token: str
    _own: threading.local = field(default_factory=threading.local, init=False)

    def __post_init__(self) -> None:
        """Refuse an address that is none."""
        if not self.url.startswith(("http://", "https://")):
            raise ValueError(f"{self.url} must start with http:// or https://")

    def ask(self, url: str, body: dict[str, Any]) -> dict[str, Any]:
        """Post an object and return the app's.

        What is posted may be posted twice: a line that had been closed meanwhile is tried anew once.

        Raises
        ------
        AnsweredError
            The app answered something else than yes.
        OSError
            It does not answer.
        """
        try:
            return self._asked(url, body)
        except (http.client.HTTPException, OSError) as wrong:
            fresh = getattr(self._own, "answers", 0) == 0
            self.close()
            if fresh:
                raise OSError(str(wrong) or type(wrong).__name__) from wrong
        try:
            return self._asked(url, body)
        except (http.client.HTTPException, OSError) as wrong:
            self.close()
            raise OSError(str(wrong) or type(wrong).__name__) from wrong

    def _asked(self, url: str, body: dict[str, Any]) -> dict[str, Any]:
        line = self._line()
        headers = {"Authorization": f"Bearer {self.token}", "Content-Type": "application/json"}
        line.request("POST", urlsplit(url).path, json.dumps(body), headers)
        answer = line.getresponse()
        words = answer.read()
        self._own.answers += 1
        if answer.status not in OK:
            raise AnsweredError(answer.status, words[:2000].decode("utf-8", "replace"))
        return dict(json.loads(words))

    def _line(self) -> http.client.HTTPConnection:
        line: http.client.HTTPConnection | None = getattr(self._own, "line", None)
        if line is None:
            parts = urlsplit(self.url)
            if parts.scheme == "https":
                context = ssl.create_default_context()
                line = http.client.HTTPSConnection(parts.netloc, timeout=TIMEOUT_S, context=context)
            else:
                line = http.client.HTTPConnection(parts.netloc, timeout=TIMEOUT_S)
            self._own.line, self._own.answers = line, 0
        return line

    def close(self) -> None:
        """Close the line of this thread."""
        line = getattr(self._own, "line", None)
        self._own.line, self._own.answers = None, 0
        if line is not None:
            with contextlib.suppress(OSError):
                line.close()
