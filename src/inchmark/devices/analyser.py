"""An antenna analyser that speaks SCPI-style commands over TCP: one sweep of S11 at a time.

The few commands used are common to such instruments: identify, set start, stop and points, read
complex data as pairs.
"""

from __future__ import annotations

import ipaddress
import socket
import time
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

CONNECT_TIMEOUT_S, ANSWER_TIMEOUT_S, WHOLE_SWEEP_S = 5.0, 20.0, 45.0
# this machine, for the simulated analyser, and private networks (RFC 1918, RFC 4193)
NEAR = tuple(
    ipaddress.ip_network(network)
    for network in (
        "127.0.0.0/8",
        "::1/128",
        "10.0.0.0/8",
        "172.16.0.0/12",
        "192.168.0.0/16",
        "fc00::/7",
    )
)
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
    until = time.monotonic() + WHOLE_SWEEP_S
    address = f"{host}:{port}"
    try:
        connection = socket.create_connection((_near(host), port), timeout=CONNECT_TIMEOUT_S)
    except OSError as wrong:
        raise _silent(address) from wrong
    with connection:
        link = _Link(connection, address, until)
        name = link.ask("*IDN?")
        link.tell(f"SENS:FREQ:STAR {wanted.start_hz:.0f}")
        link.tell(f"SENS:FREQ:STOP {wanted.stop_hz:.0f}")
        link.tell(f"SENS:SWE:POIN {wanted.points}")
        return name, _pairs(link.ask("CALC:DATA? SDATA"), wanted.points)


def _silent(address: str) -> AnalyserError:
    """Return the one thing said of ports that are closed, silent, or answer something else.

    Whoever is signed in chooses the address; what is said must not tell what listens there.
    """
    return AnalyserError(
        f"No analyser answers at {address}. Check address, lead and power, and that it speaks SCPI over TCP."
    )


def _near(host: str) -> str:
    """Return the address of a host on this machine or a private network; refuse all others.

    The server makes this connection for whoever is signed in, so it must not be a way out: link-local
    addresses hold routers and the metadata of machines in a cloud.
    """
    try:
        found = socket.getaddrinfo(host, None, type=socket.SOCK_STREAM)[0][4][0]
        address = ipaddress.ip_address(str(found).partition("%")[0])
    except (OSError, ValueError) as wrong:  # UnicodeError, of names no host can have, is one
        raise AnalyserError(f"There is no host {host[:80]}. Check the address.") from wrong
    plain = address.ipv4_mapped if isinstance(address, ipaddress.IPv6Address) else None
    if not any((plain or address) in network for network in NEAR):
        raise AnalyserError(
            f"{host[:80]} is not on a private network. An analyser stands near: give its address there."
        )
    return str(address)


@dataclass(slots=True)
class _Link:
    connection: socket.socket
    address: str
    until: float  # on the monotonic clock: the whole sweep must be over

    def tell(self, command: str) -> None:
        self._bound()
        try:
            self.connection.sendall(f"{command}\n".encode())
        except OSError as wrong:
            raise _silent(self.address) from wrong

    def ask(self, command: str) -> str:
        self.tell(command)
        held = bytearray()
        while not held.endswith(b"\n"):
            self._bound()
            try:
                more = self.connection.recv(65_536)
            except OSError as wrong:
                raise _silent(self.address) from wrong
            if not more:
                raise _silent(self.address)
            held += more
            if len(held) > MOST_ANSWER_BYTES:
                raise AnalyserError(f"{self.address} sent too much for an answer to {command}.")
        return held.decode("ascii", "replace").strip()

    def _bound(self) -> None:
        """Let the next step wait no longer than is left of the whole."""
        left = self.until - time.monotonic()
        if left <= 0:
            raise _silent(self.address)
        self.connection.settimeout(min(left, ANSWER_TIMEOUT_S))


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
