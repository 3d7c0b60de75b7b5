"""Close range: the level at a short fixed distance, its window, and whose fault a miss is."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from inchmark.core.antenna.lengths import far_field_distance_m
from inchmark.core.budget import End, link_budget
from inchmark.core.propagation.free_space import free_space_loss_db, wavelength_m

BENCH_PLUS_MINUS_DB = 6.0  # reflections of table, hands and walls, common practice
CROSSED_DROP_DB = 10.0  # what crossing linear antennas costs at least indoors, common practice
LEAST_GOOD_UNITS = 3
LEAST_SPREAD_DB = 1.0  # a reading step and its rounding


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """Levels a good pair shows [dBm], where that came from, and what to mistrust."""

    low_dbm: float
    high_dbm: float
    source: str
    caution: str = ""

    def holds(self, level_dbm: float) -> bool:
        """Tell whether a level lies inside."""
        return self.low_dbm <= level_dbm <= self.high_dbm


def predicted_window(
    sender: End, receiver: End, *, distance_m: float, frequency_hz: float, size_m: float = 0.0
) -> Window:
    """Return the window free space predicts, 6 dB to each side.

    A distance inside a wavelength, or inside 2 D^2 / lambda of an antenna of a size D [m], is in
    the near field: the window then carries a caution.
    """
    path = float(free_space_loss_db(distance_m, frequency_hz))
    level = link_budget(sender, receiver, path_loss_db=path, path_source="").arriving_dbm
    near = max(
        float(wavelength_m(frequency_hz)),
        far_field_distance_m(size_m, frequency_hz) if size_m else 0.0,
    )
    caution = (
        f"{distance_m:g} m is inside the near field ({near:.2g} m): the window is a rough one. Move apart, or learn it from good units."
        if distance_m < near
        else ""
    )
    return Window(
        low_dbm=level - BENCH_PLUS_MINUS_DB,
        high_dbm=level + BENCH_PLUS_MINUS_DB,
        source=f"free space at {distance_m:g} m, ±{BENCH_PLUS_MINUS_DB:g} dB common practice",
        caution=caution,
    )


def learned_window(levels_dbm: Sequence[float]) -> Window | None:
    """Return where the next good unit lies with 95 %, from three good ones or more; else None.

    The prediction interval of one more reading from a normal sample (textbook).
    """
    n = len(levels_dbm)
    if n < LEAST_GOOD_UNITS:
        return None
    spread = max(float(np.std(levels_dbm, ddof=1)), LEAST_SPREAD_DB)
    half = float(stdtrit(n - 1, 0.975)) * spread * math.sqrt(1 + 1 / n)
    mean = float(np.mean(levels_dbm))
    return Window(low_dbm=mean - half, high_dbm=mean + half, source=f"learned from {n} good units")


@dataclass(frozen=True, slots=True, kw_only=True)
class CloseReading:
    """Level with antennas parallel, crossed, or both [dBm]; `alike` tells whether at one distance."""

    parallel_dbm: float | None = None
    crossed_dbm: float | None = None
    alike: bool = True

    @property
    def crossing_costs_db(self) -> float | None:
        """Return what crossing costs [dB], where both were read at one distance."""
        if self.crossed_dbm is None or self.parallel_dbm is None or not self.alike:
            return None
        return self.parallel_dbm - self.crossed_dbm

    @property
    def crossing_odd(self) -> bool:
        """Tell whether crossing costs less than linear antennas should show."""
        cost = self.crossing_costs_db
        return cost is not None and cost < CROSSED_DROP_DB


@dataclass(frozen=True, slots=True)
class SwapQuestion:
    """One thing to try: what to do, and what a changed level points to."""

    key: str
    do: str
    points_to: str


TREE = (
    SwapQuestion(
        "antenna", "Swap the antenna for one known to be good.", "the antenna or its lead"
    ),
    SwapQuestion("receiver", "Swap the receiver for another unit.", "the receiver"),
    SwapQuestion("transmitter", "Swap the transmitter for another unit.", "the transmitter"),
    SwapQuestion(
        "supply",
        "Run the board from another supply, with a short lead of its own.",
        "the supply or its lead",
    ),
    SwapQuestion(
        "driver",
        "Switch off motors and their driver, or move it away from the antenna.",
        "a motor driver",
    ),
    SwapQuestion(
        "tip",
        "Bring the antenna’s tip out of the frame, and away from other wires.",
        "the antenna’s tip inside the frame",
    ),
    SwapQuestion(
        "ground",
        "Turn the antenna upright, and lift it off ground, water and wet grass.",
        "how it stands to the ground or water",
    ),
    SwapQuestion("metal", "Move both ends away from metal, tables and hands.", "metal nearby"),
    SwapQuestion(
        "noise",
        "Switch off or leave what may make noise: supplies, hubs, screens.",
        "a source of noise or interference nearby",
    ),
)
CAME_RIGHT, SAME = "came right", "same"
ANSWERS = (CAME_RIGHT, SAME)


def next_question(answers: Mapping[str, str]) -> SwapQuestion | None:
    """Return what to try next; None once something came right or all was tried."""
    for question in TREE:
        if answers.get(question.key) == CAME_RIGHT:
            return None
        if question.key not in answers:
            return question
    return None


def verdict(answers: Mapping[str, str]) -> str:
    """Return which part the answers point to, in a sentence; empty while they do not yet."""
    for question in TREE:
        if answers.get(question.key) == CAME_RIGHT:
            return f"The answers point to {question.points_to}."
    if next_question(answers) is None:
        return "No swap changed it: the window itself is in doubt. Read the power setting back at both ends, and measure the distance again."
    return ""
