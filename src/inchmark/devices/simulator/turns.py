"""A walk with rigs in turn: each sends alone at each stop, as a comparison is walked; and an example.

The rigs' order is shuffled inside each stop. No lead and no console: the frames themselves, as a log
of our own would hold them.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

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


EXAMPLE_STOPS = tuple(
    (str(i + 1), d) for i, d in enumerate((30.0, 65.0, 130.0, 240.0, 400.0, 620.0, 900.0))
)
EXAMPLE_RIGS = {
    "A": SimulatedRig(level_at_1m_dbm=-22.0, threshold_dbm=-111.0),
    "B": SimulatedRig(level_at_1m_dbm=-17.5, threshold_dbm=-111.0),
}


def example_log(seed: int) -> tuple[str, str]:
    """Return a walk of two rigs over seven stops as the text of a frame log and of a stops file."""
    walk = SimulatedWalk(SimulatedSite(exponent=3.2), EXAMPLE_RIGS, np.random.default_rng(seed))
    frames = walk_frames(walk, Itinerary(stops=EXAMPLE_STOPS, rigs=tuple(EXAMPLE_RIGS)))
    stops: list[dict[str, str | float | int | None]] = [
        {"stop": name, "distance_m": metres} for name, metres in EXAMPLE_STOPS
    ]
    log = csv_lines(map(simulated_tokens, frames), SIMULATED_COLUMNS)
    return "".join(log), "".join(csv_lines(stops, ("stop", "distance_m")))
