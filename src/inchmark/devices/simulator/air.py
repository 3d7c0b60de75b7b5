"""Who hears which frame, and how: transmissions in the order of time, each with its receptions.

Simulated time only: nothing here waits. The truth of every transmission is in what is yielded,
heard or not, so that a test can hold what was stored against it.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple, Protocol

import numpy as np

from inchmark.core.frame_spread import FADING_DB, WATERFALL_DB
from inchmark.core.normal import ndtr
from inchmark.core.simulation import SimulatedRig
from inchmark.devices.simulator.route import At, Route, Stay
from inchmark.devices.simulator.traps import (
    CLIP_DBM,
    CLIP_LOSS,
    NOISE_UP_DB,
    RELAY_LOSS_DB,
    SECOND_RECEIVER_DB,
    Bursts,
)

NOISE_DBM, NOISE_SPREAD_DB, SNR_SPREAD_DB, FLOOR = -117.5, 0.7, 0.5, 0.003
FAR_END = "far"


class Way(Protocol):
    """What the way between a board and the fixed end costs."""

    def loss_db(self, board: str, at: At) -> float:
        """Return the loss of the path where the carrier is [dB]."""
        ...


class Ear(NamedTuple):
    """A console: the board it belongs to, its receiver ("" where there is one), its direction."""

    board: str
    receiver: str = ""
    direction: str = ""

    @property
    def name(self) -> str:
        """Return what the console is called."""
        return "-".join(part for part in (self.board, self.receiver, self.direction) if part)


class Reception(NamedTuple):
    """One frame at one console; levels [dBm, dB] None where it was not heard."""

    ear: Ear
    time_s: float
    seq: int
    heard: bool
    rssi_dbm: float | None
    snr_db: float | None
    noise_dbm: float
    stop: str
    metres: float
    hops: int = 0
    source: str = ""


@dataclass(slots=True)
class Air:
    """Boards side by side on one route, each sending in turn every `interval_s`."""

    boards: Mapping[str, SimulatedRig]
    route: Route
    ground: Way
    random: np.random.Generator
    interval_s: float = 2.0
    traps: frozenset[str] = frozenset()
    stays: list[Stay] = field(init=False)
    _bursts: dict[str, Bursts] = field(init=False)

    def __post_init__(self) -> None:
        """Lay the route out in time."""
        self.stays = self.route.stays()
        self._bursts = {name: Bursts(self.random, "bursts" in self.traps) for name in self.boards}

    @property
    def lasts_s(self) -> float:
        """Return when the last stay ends [s]."""
        return self.stays[-1].to_s

    def ears(self) -> list[Ear]:
        """Return the consoles there are."""
        found: list[Ear] = []
        for board in self.boards:
            found += [Ear(board, name) for name in self._receivers()]
            if "reply" in self.traps:
                found.append(Ear(board, "", FAR_END))
        return found

    def _receivers(self) -> tuple[str, ...]:
        return ("mast", "roof") if "receivers" in self.traps else ("",)

    def receptions(self) -> Iterator[Reception]:
        """Yield every transmission at every console, in order of time."""
        turns = int(self.lasts_s / self.interval_s)
        anew = turns // 2 if "restart" in self.traps else turns + 1
        for turn in range(turns):
            for i, board in enumerate(self.boards):
                time_s = (turn + i / len(self.boards)) * self.interval_s
                seq = turn - anew if i == 0 and turn >= anew else turn
                yield from self._transmission(board, i, time_s, seq)

    def _transmission(
        self, board: str, number: int, time_s: float, seq: int
    ) -> Iterator[Reception]:
        at = self.route.at(time_s, self.stays)
        fading = FADING_DB * float(self.random.standard_normal())
        burst = self._bursts[board].lost()
        heard_at_all = False
        for i, receiver in enumerate(self._receivers()):
            level = self._level(board, at) + fading - i * SECOND_RECEIVER_DB
            one = self._heard(Ear(board, receiver), level, time_s, seq, at, burst=burst)
            heard_at_all |= one.heard
            yield one
        if "reply" in self.traps:
            level = self._level(board, at) + FADING_DB * float(self.random.standard_normal())
            yield self._heard(Ear(board, "", FAR_END), level, time_s + 0.2, seq, at, burst=burst)
        if number == 0 and "relay" in self.traps and not heard_at_all:
            level = self.boards[board].level_at_1m_dbm - RELAY_LOSS_DB
            ear = Ear(board, self._receivers()[0])
            one = self._heard(ear, level, time_s + 0.4, seq, at)
            yield one._replace(hops=1, source="relay-1")

    def _level(self, board: str, at: At) -> float:
        return self.boards[board].level_at_1m_dbm - self.ground.loss_db(board, at)

    def _heard(
        self, ear: Ear, level: float, time_s: float, seq: int, at: At, *, burst: bool = False
    ) -> Reception:
        rig, noise = self.boards[ear.board], self._noise(time_s)
        threshold = rig.threshold_dbm + max(noise - NOISE_DBM - 3 * NOISE_SPREAD_DB, 0.0)
        share = (1 - FLOOR) * float(ndtr(np.array([(level - threshold) / WATERFALL_DB]))[0])
        heard = not burst and bool(self.random.random() < share)
        if "saturation" in self.traps and level > CLIP_DBM:
            heard = heard and bool(self.random.random() > CLIP_LOSS)
            level = CLIP_DBM
        snr = round((level - noise + float(self.random.normal(0, SNR_SPREAD_DB))) * 4) / 4
        return Reception(
            ear=ear, time_s=time_s, seq=seq, heard=heard,
            rssi_dbm=float(rig.reading_dbm(level, noise)) if heard else None,
            snr_db=snr if heard else None, noise_dbm=float(round(noise)),
            stop=at.stop, metres=at.metres,
        )  # fmt: skip

    def _noise(self, time_s: float) -> float:
        noise = float(self.random.normal(NOISE_DBM, NOISE_SPREAD_DB))
        third = self.lasts_s / 3
        jammed = "interference" in self.traps and third <= time_s < 2 * third
        return noise + NOISE_UP_DB if jammed else noise
