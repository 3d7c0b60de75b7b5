"""A simulated pair of boards: one sends, the other prints what it hears, as JSON Lines over TCP.

It stands in for real boards on the same path: anything that reads lines from a board's console
behind a TCP bridge can read these.
"""

from __future__ import annotations

import json
import socket
import threading
import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np

from inchmark.core.simulation import SimulatedFrame, SimulatedRig, SimulatedSite, SimulatedWalk
from inchmark.formats.frame_log.writer import SIMULATED_COLUMNS, csv_lines, simulated_tokens

EXAMPLE_START_S = 1_794_646_800.0  # 2026-11-14T09:00:00Z
VISIT_GAP_S = 90.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Itinerary:
    """Where the simulated carrier goes: stops in order, every rig at each, so many frames."""

    stops: Sequence[tuple[str, float]]
    rigs: Sequence[str]
    frames: int = 60
    interval_s: float = 2.0
    start_s: float = EXAMPLE_START_S
    condition: str = ""


def walk_frames(walk: SimulatedWalk, way: Itinerary) -> Iterator[SimulatedFrame]:
    """Yield the frames of a whole walk in the order sent, rigs shuffled inside each stop."""
    clock = way.start_s
    for stop, metres in way.stops:
        order = list(way.rigs)
        walk.random.shuffle(order)
        for rig in order:
            yield from walk.visit(
                rig,
                stop,
                metres,
                way.frames,
                start_s=clock,
                interval_s=way.interval_s,
                condition=way.condition,
            )
            clock += way.frames * way.interval_s + VISIT_GAP_S


@dataclass(slots=True)
class SimulatedBoards:
    """A TCP server on loopback that prints one walk to whoever connects, then closes."""

    frames: Iterator[SimulatedFrame]
    port: int = 0
    pause_s: float = 0.0  # between frames; the boards' clock runs faster than ours
    _listener: socket.socket = field(init=False)

    def __post_init__(self) -> None:
        """Listen on loopback; port 0 takes a free one."""
        self._listener = socket.create_server(("127.0.0.1", self.port))
        self.port = self._listener.getsockname()[1]

    def start(self) -> threading.Thread:
        """Serve the first connection in a thread of its own."""
        thread = threading.Thread(target=self._serve, daemon=True, name="simulated-boards")
        thread.start()
        return thread

    def serve_until_interrupted(self) -> None:
        """Serve the first connection here; Ctrl-C ends it."""
        try:
            self._serve()
        except KeyboardInterrupt:
            self._listener.close()

    def _serve(self) -> None:
        with self._listener:
            connection, _ = self._listener.accept()
            with connection:
                try:
                    for frame in self.frames:
                        connection.sendall(board_line(frame))
                        if self.pause_s:
                            time.sleep(self.pause_s)
                except (BrokenPipeError, ConnectionResetError):
                    return  # the reader hung up; a board would go on sending into the air


def board_line(frame: SimulatedFrame) -> bytes:
    """Return one frame as the board prints it."""
    tokens = {name: value for name, value in simulated_tokens(frame).items() if value is not None}
    return (json.dumps(tokens) + "\n").encode()


EXAMPLE_STOPS = tuple(
    (str(i + 1), d) for i, d in enumerate((30.0, 65.0, 130.0, 240.0, 400.0, 620.0, 900.0))
)
EXAMPLE_RIGS = {
    "A": SimulatedRig(level_at_1m_dbm=-22.0, threshold_dbm=-111.0),
    "B": SimulatedRig(level_at_1m_dbm=-17.5, threshold_dbm=-111.0),
}


def _example_walk(seed: int) -> Iterator[SimulatedFrame]:
    walk = SimulatedWalk(SimulatedSite(exponent=3.2), EXAMPLE_RIGS, np.random.default_rng(seed))
    return walk_frames(walk, Itinerary(stops=EXAMPLE_STOPS, rigs=tuple(EXAMPLE_RIGS)))


def example_boards(seed: int, *, port: int = 0) -> SimulatedBoards:
    """Return simulated boards that walk two rigs over seven stops."""
    return SimulatedBoards(_example_walk(seed), port=port)


def example_log(seed: int) -> tuple[str, str]:
    """Return the same walk as the text of a frame log and of a stops file."""
    rows = (simulated_tokens(frame) for frame in _example_walk(seed))
    stops: list[dict[str, str | float | int | None]] = [
        {"stop": name, "distance_m": metres} for name, metres in EXAMPLE_STOPS
    ]
    return "".join(csv_lines(rows, SIMULATED_COLUMNS)), "".join(
        csv_lines(stops, ("stop", "distance_m"))
    )
