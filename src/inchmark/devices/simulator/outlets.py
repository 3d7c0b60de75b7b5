"""Where a console's lines come out, each as a real board's do: TCP, a pseudo-terminal, UDP, MQTT, a file.

An outlet says whether somebody was there to take a line; a board prints into the air otherwise.
What is sent to a board is answered on the same lead.
"""

from __future__ import annotations

import contextlib
import os
import pty
import socket
import threading
import time
import tty
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Protocol

import paho.mqtt.client as mqtt
from paho.mqtt.enums import CallbackAPIVersion

from inchmark.devices.addresses import host_and_port

Answer = Callable[[str], str]
MOST_ASKED_BYTES = 4096


class Outlet(Protocol):
    """A lead out of a console."""

    words: str

    def print(self, line: str) -> bool:
        """Let a line out; tell whether somebody took it."""

    def close(self) -> None:
        """Pull the lead."""


@dataclass(slots=True)
class OnTcp:
    """A server on loopback that prints to whoever is connected."""

    answer: Answer
    port: int = 0
    words: str = field(init=False)
    _listener: socket.socket = field(init=False)
    _taken: list[socket.socket] = field(default_factory=list, init=False)
    _lock: threading.Lock = field(default_factory=threading.Lock, init=False)

    def __post_init__(self) -> None:
        """Listen; port 0 takes a free one."""
        self._listener = socket.create_server(("127.0.0.1", self.port))
        self.port = self._listener.getsockname()[1]
        self.words = f"tcp:127.0.0.1:{self.port}"
        threading.Thread(target=self._accept, daemon=True).start()

    def _accept(self) -> None:
        while True:
            try:
                one, _ = self._listener.accept()
            except OSError:
                return
            with self._lock:
                self._taken.append(one)
            threading.Thread(target=self._listen, args=(one,), daemon=True).start()

    def _listen(self, one: socket.socket) -> None:
        with one, contextlib.suppress(OSError), one.makefile("rb") as asked:
            while line := asked.readline(MOST_ASKED_BYTES):
                one.sendall(_said(self.answer, line))
        with self._lock:
            if one in self._taken:
                self._taken.remove(one)

    def print(self, line: str) -> bool:
        """Let a line out to all who listen."""
        took = False
        with self._lock:
            for one in list(self._taken):
                try:
                    one.sendall(line.encode() + b"\r\n")
                    took = True
                except OSError:
                    self._taken.remove(one)
        return took

    def wait_for_reader(self, seconds: float) -> bool:
        """Wait until somebody listens, so long at most; tell whether somebody does."""
        patience = time.monotonic() + seconds
        while not self._taken and time.monotonic() < patience:
            time.sleep(0.005)
        return bool(self._taken)

    def pull(self) -> None:
        """Cut every connection, as a pulled lead does; the board goes on."""
        with self._lock:
            for one in self._taken:
                with contextlib.suppress(OSError):
                    one.shutdown(socket.SHUT_RDWR)
            self._taken.clear()

    def close(self) -> None:
        """Listen no more."""
        self._listener.close()
        self.pull()


@dataclass(slots=True)
class OnPty:
    """A pseudo-terminal, which a program opens like a serial port."""

    answer: Answer
    words: str = field(init=False)
    _own: int = field(init=False)
    _theirs: int = field(init=False)

    def __post_init__(self) -> None:
        """Open the pair; raw, so that no line is echoed."""
        self._own, self._theirs = pty.openpty()
        tty.setraw(self._theirs)
        os.set_blocking(self._own, False)
        self.words = f"serial:{os.ttyname(self._theirs)}"
        threading.Thread(target=self._listen, daemon=True).start()

    def _listen(self) -> None:
        asked, wake = b"", threading.Event()
        while not wake.wait(0.05):
            try:
                asked += os.read(self._own, MOST_ASKED_BYTES)
            except BlockingIOError:
                continue
            except OSError:
                return
            *whole, asked = asked[-MOST_ASKED_BYTES:].split(b"\n")
            for line in whole:
                os.write(self._own, _said(self.answer, line))

    def print(self, line: str) -> bool:
        """Let a line out; a terminal nobody reads is full at some time."""
        try:
            os.write(self._own, line.encode() + b"\r\n")
        except OSError:
            return False
        return True

    def close(self) -> None:
        """Close both ends."""
        os.close(self._own)
        os.close(self._theirs)


@dataclass(slots=True)
class OnUdp:
    """A datagram a line to an address."""

    address: str
    words: str = field(init=False)
    _to: tuple[str, int] = field(init=False)
    _line: socket.socket = field(init=False)

    def __post_init__(self) -> None:
        """Open the socket."""
        self._to = host_and_port(self.address)
        self.words = f"udp:{self._to[1]}"
        self._line = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)

    def print(self, line: str) -> bool:
        """Send; nobody can tell whether it came."""
        self._line.sendto(line.encode(), self._to)
        return True

    def close(self) -> None:
        """Close the socket."""
        self._line.close()


@dataclass(slots=True)
class OnMqtt:
    """A message a line to a topic of a broker, as a gateway publishes its uplinks."""

    address: str
    topic: str
    words: str = field(init=False)
    _client: mqtt.Client = field(init=False)

    def __post_init__(self) -> None:
        """Connect."""
        host, port = host_and_port(self.address)
        self._client = mqtt.Client(CallbackAPIVersion.VERSION2)
        self._client.connect(host, port)
        self._client.loop_start()
        self.words = f"mqtt:{host}:{port}/{self.topic}"

    def print(self, line: str) -> bool:
        """Publish, so that the broker keeps it until it is taken (quality 1)."""
        return self._client.publish(self.topic, line, qos=1).rc == mqtt.MQTT_ERR_SUCCESS

    def close(self) -> None:
        """Wait for what is under way, and leave."""
        self._client.disconnect()
        self._client.loop_stop()


@dataclass(slots=True)
class OnFile:
    """A file that grows."""

    path: Path
    words: str = field(init=False)

    def __post_init__(self) -> None:
        """Begin it anew."""
        self.path.write_text("", encoding="utf-8")
        self.words = f"file:{self.path}"

    def print(self, line: str) -> bool:
        """Write it at the end."""
        with self.path.open("a", encoding="utf-8") as file:
            file.write(line + "\n")
        return True

    def close(self) -> None:
        """Leave the file."""


def _said(answer: Answer, line: bytes) -> bytes:
    return answer(line.decode("utf-8", "replace").strip()).encode() + b"\r\n"
