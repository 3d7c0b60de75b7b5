"""A walk without stops cut into bins, each a stop with its spread of distance as plus or minus.

The other school of range tests drives past and never stands. A bin of equal frames weighs every bin
alike; one of equal distance keeps its plus or minus alike.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.gathering.timeline import Stay
from inchmark.core.gathering.way import DEVIATIONS, FIX_SD_M, Way

LEAST_FRAMES = 5  # a bin with fewer goes to the one before it
LEAST_M = 0.5
FIX_AGE_S = 1.0  # receivers tell where they were up to a second ago


@dataclass(frozen=True, slots=True, kw_only=True)
class Cutting:
    """How a walk is cut: so many frames a bin, or so many metres."""

    frames: int | None = None
    metres: float | None = None

    def __post_init__(self) -> None:
        """Refuse what cuts nothing."""
        if (self.frames is None) == (self.metres is None):
            raise ValueError("A walk is cut by frames or by metres: say one of them.")
        if self.frames is not None and self.frames < LEAST_FRAMES:
            raise ValueError(f"A bin needs {LEAST_FRAMES} frames or more.")
        if self.metres is not None and not self.metres >= LEAST_M:
            raise ValueError(f"A bin needs {LEAST_M} m or more.")


@dataclass(frozen=True, slots=True, kw_only=True)
class Bin:
    """A stretch of time [s since 1970] as a stop: distance with plus or minus [m], middle, speed [m/s]."""

    name: str
    from_s: float
    to_s: float
    distance_m: float
    plus_minus_m: float
    lat: float
    lon: float
    frames: int
    speed_m_per_s: float

    @property
    def stay(self) -> Stay:
        """Return it as a stay of a timeline."""
        return Stay(self.from_s, self.to_s, self.name)


def cut_into_bins(time_s: Floats, way: Way, by: Cutting) -> list[Bin]:
    """Return the bins of frames heard at times, in order of time.

    Parameters
    ----------
    time_s
        Shape (frames,): when frames were heard [s since 1970], in any order; of all rigs together.

    Raises
    ------
    ValueError
        No frame lies on the track.
    """
    times = np.sort(np.asarray(time_s, dtype=np.float64))
    metres = way.metres_at(times)
    times, metres = times[np.isfinite(metres)], metres[np.isfinite(metres)]
    if times.size < LEAST_FRAMES:
        raise ValueError(
            "The track does not overlap the frames in time. Check the clock of log and track."
        )
    cuts = [*_joined(list(_cuts(metres, by)), times.size), times.size]
    return [
        _bin(number, times[a:b], metres[a:b], way, _end(times, b))
        for number, (a, b) in enumerate(itertools.pairwise(cuts), 1)
    ]


def _cuts(metres: Floats, by: Cutting) -> Iterator[int]:
    """Yield where bins begin."""
    if by.frames is not None:
        yield from range(0, metres.size, by.frames)
        return
    begin = 0
    yield 0
    for i in range(1, metres.size):
        if abs(metres[i] - metres[begin]) > (by.metres or 0):
            begin = i
            yield i


def _joined(cuts: Sequence[int], size: int) -> list[int]:
    """Return the beginnings of bins without those that would hold too few frames."""
    kept = [0]
    for cut in cuts[1:]:
        if cut - kept[-1] >= LEAST_FRAMES:
            kept.append(cut)
    if len(kept) > 1 and size - kept[-1] < LEAST_FRAMES:
        kept.pop()
    return kept


def _end(times: Floats, b: int) -> float:
    """Return when a bin ends: as the next begins, or just after the last frame."""
    return float(times[b]) if b < times.size else float(times[-1]) + FIX_AGE_S


def _bin(number: int, times: Floats, metres: Floats, way: Way, to_s: float) -> Bin:
    speed = float(np.median(way.speed_at(times)))
    by_age = speed * FIX_AGE_S / np.sqrt(12)  # a fix is anything up to its age old
    spread = float(np.std(metres, ddof=1))
    lat, lon = way.place_at(times)
    return Bin(
        name=f"bin {number}",
        from_s=float(times[0]),
        to_s=to_s,
        distance_m=max(float(np.mean(metres)), LEAST_M),
        plus_minus_m=float(DEVIATIONS * np.sqrt(spread**2 + by_age**2 + FIX_SD_M**2)),
        lat=float(np.median(lat)),
        lon=float(np.median(lon)),
        frames=int(times.size),
        speed_m_per_s=speed,
    )
