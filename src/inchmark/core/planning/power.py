"""What a plan is likely to prove: it is walked many times by the simulator and each walk judged.

The rules are simpler than the link model that reads the real walk, so that 200 studies take
seconds: levels are compared stop by stop, reach is counted at one stop, an edge is bracketed.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from typing import NamedTuple

import numpy as np
from scipy.special import stdtrit

from inchmark.core.interval import Interval
from inchmark.core.reception.proportion import wilson
from inchmark.core.simulation import SimulatedFrame, SimulatedRig, SimulatedSite, SimulatedWalk

COMPARE, REACH, EDGE = "compare", "reach", "edge"
KINDS = (COMPARE, REACH, EDGE)
MOST_LOST = 0.2  # a stop that lost more says too little of the level: survivors are strong
LEAST_STOPS = 3
NARROW_BRACKET = 1.6


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """What would settle it: rigs, dB wanted, distance [m] and loss allowed [share]."""

    kind: str
    rig: str
    other: str = ""
    wanted_db: float = 2.0
    needed_m: float | None = None
    loss: float = 0.1

    def __post_init__(self) -> None:
        """Refuse an unknown kind, and a question without what it needs."""
        if self.kind not in KINDS:
            raise ValueError(f"kind={self.kind!r} must be one of {', '.join(KINDS)}")
        if self.kind == COMPARE and (not self.other or self.other == self.rig):
            raise ValueError("a comparison needs two different rigs")
        if self.kind == REACH and not self.needed_m:
            raise ValueError("reach needs a distance")


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedWalk:
    """What is walked: stops with distances [m], frames a visit, passes; and what truly holds."""

    stops: Sequence[tuple[str, float]]
    frames: int
    passes: int
    site: SimulatedSite
    rigs: Mapping[str, SimulatedRig]


class Power(NamedTuple):
    """How many of the simulated studies settled the question, with a 95 % interval."""

    studies: int
    settled: int

    @property
    def share(self) -> float:
        """Return the share that settled it."""
        return self.settled / self.studies

    @property
    def limits(self) -> Interval:
        """Return the Wilson limits of that share."""
        return wilson(self.settled, self.studies)


def power(
    question: Question,
    walk: PlannedWalk,
    *,
    studies: int,
    seed: int,
    progress: Callable[[int], None] = lambda done: None,
) -> Power:
    """Return how often a plan settles its question; `progress` is told after each study."""
    streams = np.random.SeedSequence(seed).spawn(studies)
    judge = {COMPARE: _compared, REACH: _reached, EDGE: _bracketed}[question.kind]
    settled = 0
    for done, stream in enumerate(streams, start=1):
        settled += judge(question, walk, _walked(question, walk, np.random.default_rng(stream)))
        progress(done)
    return Power(studies=studies, settled=settled)


Counts = dict[tuple[str, str], tuple[int, int, float]]  # rig, stop -> sent, heard, mean level


def _walked(question: Question, walk: PlannedWalk, random: np.random.Generator) -> Counts:
    simulated = SimulatedWalk(walk.site, walk.rigs, random)
    rigs = [question.rig, *([question.other] if question.kind == COMPARE else [])]
    counts: Counts = {}
    for stop, metres in walk.stops:
        for rig in rigs:
            visit = partial(simulated.visit, rig, stop, metres, walk.frames)
            frames = [one for _ in range(walk.passes) for one in visit()]
            counts[rig, stop] = _counted(frames)
    return counts


def _counted(frames: Sequence[SimulatedFrame]) -> tuple[int, int, float]:
    levels = [one.rssi_dbm for one in frames if one.rssi_dbm is not None]
    return len(frames), len(levels), float(np.mean(levels)) if levels else float("nan")


def _compared(question: Question, walk: PlannedWalk, counts: Counts) -> bool:
    """Tell whether the mean difference over stops is shown to be as large as wanted.

    Thresholds are taken as the bench knows them, so that margins are compared.
    """
    differences = []
    for stop, _ in walk.stops:
        pair = [counts[rig, stop] for rig in (question.rig, question.other)]
        if all(heard >= (1 - MOST_LOST) * sent for sent, heard, _ in pair):
            differences.append(pair[0][2] - pair[1][2])
    if len(differences) < LEAST_STOPS:
        return False
    edges = [walk.rigs[rig].threshold_dbm for rig in (question.rig, question.other)]
    found = np.array(differences) - edges[0] + edges[1]
    half = float(stdtrit(len(found) - 1, 0.975)) * found.std(ddof=1) / np.sqrt(len(found))
    return bool(abs(found.mean()) - half >= question.wanted_db)


def _reached(question: Question, walk: PlannedWalk, counts: Counts) -> bool:
    """Tell whether the loss at the stop nearest the distance is shown to be within, or over."""
    needed = question.needed_m or 0.0
    stop, _ = min(walk.stops, key=lambda one: abs(np.log(one[1] / needed)))
    sent, heard, _ = counts[question.rig, stop]
    limits = wilson(sent - heard, sent)
    return limits.high <= question.loss or limits.low > question.loss


def _bracketed(question: Question, walk: PlannedWalk, counts: Counts) -> bool:
    """Tell whether two neighbouring stops close together lie on both sides of half lost."""
    ordered = sorted(walk.stops, key=lambda one: one[1])
    lost = [
        1 - counts[question.rig, stop][1] / counts[question.rig, stop][0] for stop, _ in ordered
    ]
    return any(
        lost[i] < 0.5 <= lost[i + 1] and ordered[i + 1][1] / ordered[i][1] <= NARROW_BRACKET
        for i in range(len(ordered) - 1)
    )
