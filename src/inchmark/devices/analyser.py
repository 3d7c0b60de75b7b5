"""An antenna analyser that speaks SCPI-style commands over TCP: one sweep of S11 at a time.

The few commands used are common to such instruments: identify, set start, stop and points, read
complex data as pairs.
"""

from __future__ import annotations

import ipaddress
import socket
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

CONNECT_TIMEOUT_S, ANSWER_TIMEOUT_S = 5.0, 20.0
MOST_POINTS = 20_001
MOST_ANSWER_BYTES = 4 * 1024 * 1024


class AnalyserError(Exception):
    """The analyser does not answer as it should; the message is a sentence for the user."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SweepRange:
    """Start and stop [Hz] and the number of points."""

    start_hz: float
    stop_hz: float
    points: int = 401

    def __post_init__(self) -> None:
        """Refuse a range that is none."""
        if not (0 < self.start_hz < self.stop_hz and 2 <= self.points <= MOST_POINTS):
            raise ValueError(
                f"start_hz={self.start_hz!r} must lie below stop_hz={self.stop_hz!r}, points={self.points!r} from 2 to {MOST_POINTS}"
            )

    @property
    def frequency_hz(self) -> NDArray[np.float64]:
        """Return the frequency of each point."""
        return np.linspace(self.start_hz, self.stop_hz, self.points)


def read_sweep(host: str, port: int, wanted: SweepRange) -> tuple[str, NDArray[np.complex128]]:
    """Return the analyser's name and the reflection at each point of the range.

    Raises
    ------
    AnalyserError
        Nothing answers, the address is no local one, or the answer is not what was asked for.
    """
    try:
        connection = socket.create_connection((_local(host), port), timeout=CONNECT_TIMEOUT_S)
    except OSError as wrong:
        reason = wrong.strerror or wrong
        raise AnalyserError(
            f"No analyser answers at {host}:{port} ({reason}). Check address and lead."
        ) from wrong
    with connection:
        connection.settimeout(ANSWER_TIMEOUT_S)
        link = _Link(connection, f"{host}:{port}")
        name = link.ask("*IDN?")
        link.tell(f"SENS:FREQ:STAR {wanted.start_hz:.0f}")
        link.tell(f"SENS:FREQ:STOP {wanted.stop_hz:.0f}")
        link.tell(f"SENS:SWE:POIN {wanted.points}")
        return name, _pairs(link.ask("CALC:DATA? SDATA"), wanted.points)


def _local(host: str) -> str:
    """Return the address of a host on this machine or its own network; refuse others.

    The server makes this connection for whoever is signed in, so it must not be a way out.
    """
    try:
        address = socket.getaddrinfo(host, None, type=socket.SOCK_STREAM)[0][4][0]
    except OSError as wrong:
        raise AnalyserError(f"There is no host {host}. Check the address.") from wrong
    if not ipaddress.ip_address(address).is_private:
        raise AnalyserError(f"{host} is not on this machine's own network. An analyser is near.")
    return str(address)


@dataclass(slots=True)
class _Link:
    connection: socket.socket
    address: str

    def tell(self, command: str) -> None:
        try:
            self.connection.sendall(f"{command}\n".encode())
        except OSError as wrong:
            raise AnalyserError(f"The line to {self.address} broke. Check the lead.") from wrong

    def ask(self, command: str) -> str:
        self.tell(command)
        held = bytearray()
        while not held.endswith(b"\n"):
            held += self._more(command)
            if len(held) > MOST_ANSWER_BYTES:
                raise AnalyserError(f"{self.address} sent too much for an answer to {command}.")
        return held.decode("ascii", "replace").strip()

    def _more(self, command: str) -> bytes:
        try:
            more = self.connection.recv(65_536)
        except TimeoutError as wrong:
            raise AnalyserError(
                f"{self.address} gave no answer to {command}. Is it an analyser?"
            ) from wrong
        except OSError as wrong:
            raise AnalyserError(f"The line to {self.address} broke. Check the lead.") from wrong
        if not more:
            raise AnalyserError(f"{self.address} hung up at {command}. Is it an analyser?")
        return more


def _pairs(answer: str, points: int) -> NDArray[np.complex128]:
    try:
        numbers = np.array([float(token) for token in answer.split(",")])
    except ValueError:
        raise AnalyserError(f"The analyser answered “{answer[:60]}”, which is no sweep.") from None
    if len(numbers) != 2 * points or not np.all(np.isfinite(numbers)):
        raise AnalyserError(
            f"The analyser sent {len(numbers) // 2} points instead of {points}. Sweep again."
        )
    return numbers[::2] + 1j * numbers[1::2]
