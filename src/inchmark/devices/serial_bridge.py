"""Lines from a board, or from a serial port that a bridge has put on TCP."""

from __future__ import annotations

import socket
import urllib.error
import urllib.request
from collections.abc import Iterator

MAX_LINE_BYTES = 65_536
CONNECT_TIMEOUT_S, SILENCE_TIMEOUT_S = 5.0, 30.0
BATCH_LINES = 200


class BridgeError(Exception):
    """The board, or the program behind the address, does not answer as it should."""


def read_lines(host: str, port: int, *, silence_s: float = SILENCE_TIMEOUT_S) -> Iterator[bytes]:
    """Yield the lines a board sends, ends included, until it closes.

    Raises
    ------
    BridgeError
        Nothing answers at the address, or the board falls silent for `silence_s` seconds.
    """
    try:
        connection = socket.create_connection((host, port), timeout=CONNECT_TIMEOUT_S)
    except OSError as wrong:
        raise BridgeError(
            f"No board answers at {host}:{port} ({wrong.strerror or wrong}). Check lead and address."
        ) from wrong
    with connection:
        connection.settimeout(silence_s)
        with connection.makefile("rb") as stream:
            while line := _next_line(stream, silence_s):
                yield line if line.endswith(b"\n") else line + b"\n"


def _next_line(stream: object, silence_s: float) -> bytes:
    try:
        return stream.readline(MAX_LINE_BYTES)  # type: ignore[attr-defined, no-any-return]
    except TimeoutError as wrong:
        raise BridgeError(
            f"The board sent nothing for {silence_s:g} s. Check supply and lead."
        ) from wrong
    except OSError as wrong:
        raise BridgeError(f"The line to the board broke ({wrong.strerror or wrong}).") from wrong


def forward_lines(host: str, port: int, url: str, token: str) -> int:
    """Send a board's lines to a walk's address as JSON Lines or CSV; return how many."""
    if not url.startswith(("http://", "https://")):
        raise BridgeError(f"{url} must start with http:// or https://")
    lines = list(read_lines(host, port))
    request = urllib.request.Request(  # noqa: S310 - scheme checked above
        url,
        data=b"".join(lines),
        method="POST",
        headers={"Authorization": f"Bearer {token}", "Content-Type": "text/plain; charset=utf-8"},
    )
    try:
        with urllib.request.urlopen(request, timeout=60) as answer:  # noqa: S310
            answer.read()
    except urllib.error.HTTPError as wrong:
        raise BridgeError(
            f"{url} answered {wrong.code}: {wrong.read(300).decode('utf-8', 'replace')}"
        ) from wrong
    except OSError as wrong:
        raise BridgeError(
            f"{url} does not answer ({wrong}). The board's lines were not sent."
        ) from wrong
    return len(lines)
