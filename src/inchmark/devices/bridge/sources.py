"""Where lines come from: a board on TCP or a serial port, UDP, MQTT, a growing file, standard input.

Each yields what it reads as soon as it is there, and comes back by itself: a lead pulled and put
in again, a program restarted. Silence is no fault; a slow beacon may say nothing for an hour. Files
are followed in `files`.
"""

from __future__ import annotations

import queue
import socket
import sys
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

import serial

from inchmark.devices.addresses import AddressError, host_and_port
from inchmark.devices.bridge.files import MAX_LINE_BYTES
from inchmark.devices.bridge.mqtt import LISTEN_S, of_broker

AGAIN_S = (0.2, 0.5, 1.0, 2.0, 5.0)
BAUD = 115_200


class SourceError(ValueError):
    """A source's address is none; the message says how one is written."""


@dataclass(slots=True)
class Cut:
    """Bytes to lines; a line without an end longer than the limit is cut there."""

    rest: bytes = b""

    def take(self, data: bytes) -> list[bytes]:
        """Return the lines that are whole now, without their ends."""
        pieces = (self.rest + data).replace(b"\r\n", b"\n").split(b"\n")
        self.rest = pieces.pop()
        if len(self.rest) > MAX_LINE_BYTES:
            pieces.append(self.rest)
            self.rest = b""
        return pieces

    def last(self) -> list[bytes]:
        """Return what stood without an end."""
        rest, self.rest = self.rest, b""
        return [rest] if rest else []


Asked = queue.SimpleQueue[bytes]
Reads = Callable[[threading.Event, Asked], Iterator[bytes]]
ANSWERING = ("tcp", "serial")  # kinds whose lead goes both ways


@dataclass(frozen=True, slots=True)
class Source:
    """A named source: what it reads, whether it ends by itself, and what is to be said to its board."""

    name: str
    words: str
    reads: Reads
    ends: bool = False
    answers: bool = False
    path: Path | None = None  # of a file that is followed from where it was left
    asked: Asked = field(default_factory=queue.SimpleQueue)


def source_of(text: str, *, ends: bool = False) -> Source:
    """Return a source written as NAME=KIND:ADDRESS.

    Raises
    ------
    SourceError
        It is none; says what is wrong.
    """
    name, equals, address = text.partition("=")
    if not equals or not name:
        raise SourceError(f"“{text}” must be NAME=KIND:ADDRESS, like gate=tcp:127.0.0.1:4000.")
    kind, _, rest = address.partition(":")
    if address == "-":
        return Source(name, "standard input", _standard_input, ends=True)
    if kind == "file" and rest:
        return Source(name, address, _nothing, path=Path(rest))
    makers: dict[str, Callable[[str], Reads]] = {
        "tcp": _tcp, "udp": _udp, "serial": _serial, "mqtt": _mqtt,
    }  # fmt: skip
    if kind not in makers:
        raise SourceError(
            f"“{address}” must begin with tcp:, udp:, serial:, mqtt: or file:, or be - for standard input."
        )
    return Source(name, address, makers[kind](rest), ends=ends, answers=kind in ANSWERING)


def _port(text: str) -> tuple[str, int]:
    try:
        return host_and_port(text)
    except AddressError as wrong:
        raise SourceError(str(wrong)) from None


def _to_say(asked: Asked) -> Iterator[bytes]:
    """Yield what waits to be said to a board."""
    while not asked.empty():
        yield asked.get()


def _received(line: socket.socket, stop: threading.Event, asked: Asked) -> Iterator[bytes]:
    """Yield what a socket receives, until it is closed or told to stop."""
    line.settimeout(LISTEN_S)
    while not stop.is_set():
        for words in _to_say(asked):
            line.sendall(words)
        try:
            data = line.recv(65_536)
        except TimeoutError:
            continue
        if not data:
            return
        yield data


def _tcp(address: str) -> Reads:
    place = _port(address)

    def reads(stop: threading.Event, asked: Asked) -> Iterator[bytes]:
        with socket.create_connection(place, timeout=5) as line:
            yield from _received(line, stop, asked)

    return reads


def _udp(address: str) -> Reads:
    place = _port(address)

    def reads(stop: threading.Event, asked: Asked) -> Iterator[bytes]:
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as line:
            line.bind(place)
            for data in _received(line, stop, asked):
                yield data if data.endswith(b"\n") else data + b"\n"

    return reads


def _serial(address: str) -> Reads:
    device, _, baud = address.partition("@")
    if baud and not baud.isdigit():
        raise SourceError(f"“{address}” must be a device and a rate, like /dev/ttyUSB0@115200.")

    def reads(stop: threading.Event, asked: Asked) -> Iterator[bytes]:
        port = serial.Serial()
        port.port, port.baudrate, port.timeout = device, int(baud or BAUD), LISTEN_S
        port.dtr = port.rts = False  # many boards take either for a reset
        port.open()
        try:
            while not stop.is_set():
                for words in _to_say(asked):
                    port.write(words)
                if data := port.read(max(port.in_waiting, 1)):
                    yield data
        finally:
            port.close()

    return reads


def _mqtt(address: str) -> Reads:
    place, slash, topic = address.partition("/")
    if not slash or not topic:
        raise SourceError(
            f"“mqtt:{address}” must be mqtt:HOST:PORT/TOPIC, like mqtt:127.0.0.1:1883/gateways/#."
        )
    host, port = _port(place)

    def reads(stop: threading.Event, asked: Asked) -> Iterator[bytes]:
        yield from of_broker(host, port, topic, stop)

    return reads


def _nothing(stop: threading.Event, asked: Asked) -> Iterator[bytes]:
    yield from ()


def _standard_input(stop: threading.Event, asked: Asked) -> Iterator[bytes]:
    while not stop.is_set():
        data = sys.stdin.buffer.readline(MAX_LINE_BYTES)
        if not data:
            return
        yield data


def lines_of(
    source: Source, stop: threading.Event, said: Callable[[str], None]
) -> Iterator[list[bytes]]:
    """Yield the lines of a source as they come, through every interruption, until told to stop.

    What goes wrong is said once for each kind; a source that ends by itself ends at its end.
    """
    tries, last, cut = 0, "", Cut()
    while not stop.is_set():
        trouble = "it was closed"
        try:
            for data in source.reads(stop, source.asked):
                tries, last = 0, ""
                yield cut.take(data)
        except (OSError, serial.SerialException) as wrong:
            trouble = str(getattr(wrong, "strerror", None) or wrong)
            if source.ends:
                said(f"{source.name} ({source.words}): {trouble}.")
        if source.ends:
            break
        if trouble != last:
            said(f"{source.name} ({source.words}): {trouble}. It is tried again until it is back.")
            last = trouble
        stop.wait(AGAIN_S[min(tries, len(AGAIN_S) - 1)])
        tries += 1
    yield cut.last()


def start_name() -> str:
    """Return a name for a start of the bridge, that no other start has."""
    return f"{time.time_ns():x}"
