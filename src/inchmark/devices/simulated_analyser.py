"""A simulated antenna analyser: a TCP server with a few virtual antennas on its port.

It stands in for a real one on the same path. The antennas are series circuits; near metal a
resonance falls and broadens (invented figures).
"""

from __future__ import annotations

import socket
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

IDENTITY = "Inch Mark,simulated analyser,0001,1.0"
LINE_OHM = 50.0
IDLE_S = 30.0


class VirtualAntenna(NamedTuple):
    """A series resonance: where [Hz], how narrow, what resistance [Ohm]."""

    words: str
    resonance_hz: float
    quality: float
    resistance_ohm: float

    def reflection(self, frequency_hz: NDArray[np.float64]) -> NDArray[np.complex128]:
        """Return the reflection on a 50 Ohm line, shape as the frequencies."""
        ratio = frequency_hz / self.resonance_hz
        reactance = self.resistance_ohm * self.quality * (ratio - 1 / ratio)
        load = self.resistance_ohm + 1j * reactance
        return np.asarray((load - LINE_OHM) / (load + LINE_OHM), dtype=np.complex128)


ANTENNAS = {
    "whip": VirtualAntenna(
        words="half-wave whip", resonance_hz=868e6, quality=8, resistance_ohm=42
    ),
    "stub": VirtualAntenna(words="stub coil", resonance_hz=852e6, quality=22, resistance_ohm=33),
    "stub-metal": VirtualAntenna(
        words="stub coil, 10 mm from metal", resonance_hz=818e6, quality=16, resistance_ohm=21
    ),
    "load": VirtualAntenna(words="dummy load", resonance_hz=868e6, quality=0.02, resistance_ohm=50),
}


@dataclass(slots=True)
class SimulatedAnalyser:
    """Serves connections one after another until closed."""

    antenna: str = "whip"
    port: int = 0
    _listener: socket.socket = field(init=False)

    def __post_init__(self) -> None:
        """Listen on loopback; port 0 takes a free one."""
        if self.antenna not in ANTENNAS:
            raise ValueError(f"antenna={self.antenna!r} must be one of {', '.join(ANTENNAS)}")
        self._listener = socket.create_server(("127.0.0.1", self.port))
        self.port = self._listener.getsockname()[1]

    def __enter__(self) -> SimulatedAnalyser:
        threading.Thread(target=self.serve, daemon=True, name="simulated-analyser").start()
        return self

    def __exit__(self, *exc: object) -> None:
        self.close()

    def close(self) -> None:
        """Stop listening."""
        with suppress(OSError):  # it was not waiting
            self._listener.shutdown(socket.SHUT_RDWR)  # wakes the accepting thread
        self._listener.close()

    def serve(self) -> None:
        """Answer whoever connects, until the listener is closed."""
        while True:
            try:
                connection, _ = self._listener.accept()
            except OSError:
                return
            with connection:
                connection.settimeout(IDLE_S)
                self._talk(connection)

    def _talk(self, connection: socket.socket) -> None:
        session = _Session(self.antenna)
        try:
            with connection.makefile("rb") as lines:
                for line in lines:
                    answer = session.answer(line.decode("ascii", "replace").strip())
                    if answer is not None:
                        connection.sendall(f"{answer}\n".encode())
        except OSError:
            return  # hung up, or idle


class _Session:
    """The settings of one connection, and what each command does to them."""

    def __init__(self, antenna: str) -> None:
        self.antenna, self.start, self.stop, self.points = antenna, 800e6, 940e6, 201
        self.commands: dict[str, Callable[[str], str | None]] = {
            "*IDN?": lambda _: IDENTITY,
            "SENS:FREQ:STAR": self._set("start"),
            "SENS:FREQ:STOP": self._set("stop"),
            "SENS:SWE:POIN": self._set("points"),
            "INP:SEL": self._select,
            "CALC:DATA?": lambda _: self._data(),
        }

    def answer(self, line: str) -> str | None:
        """Return the answer to a command, None where there is none."""
        head, _, rest = line.partition(" ")
        command = self.commands.get(head.upper())
        if command is None:
            return f'-113,"Undefined header {head[:30]}"' if head.endswith("?") else None
        try:
            return command(rest.strip())
        except ValueError:
            return None

    def _set(self, name: str) -> Callable[[str], None]:
        def change(text: str) -> None:
            setattr(self, name, float(text))

        return change

    def _select(self, name: str) -> None:
        if name.lower() in ANTENNAS:
            self.antenna = name.lower()

    def _data(self) -> str:
        points = int(min(max(self.points, 2), 20_001))
        frequencies = np.linspace(self.start, self.stop, points)
        reflection = ANTENNAS[self.antenna].reflection(frequencies)
        pairs = np.column_stack([reflection.real, reflection.imag]).ravel()
        return ",".join(f"{x:.9f}" for x in pairs.tolist())
