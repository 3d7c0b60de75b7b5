"""Lines from a board, or from a serial port that a bridge has put on TCP."""

from __future__ import annotations

import socket
from collections.abc import Iterator

MAX_LINE_BYTES = 65_536
CONNECT_TIMEOUT_S, SILENCE_TIMEOUT_S = 5.0, 30.0


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
