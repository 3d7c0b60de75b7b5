"""Draws of what a rig does at needed places, kept small, so that what would change them is quick.

What shifts a level by so many decibels (a mast, an antenna, a setting) shifts every draw by as
much; how likely the rule is met, and how many places are served, follow without fitting again.
"""

from __future__ import annotations

import base64
import struct
import zlib
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.special import ndtr, ndtri

from inchmark.core.checks import Floats
from inchmark.core.interval import Estimate

MOST, LEAST, CELLS = 2000, 400, 40_000  # draws kept: fewer for many places
STEP_DB = 0.01
FARTHEST_DB = 320.0  # a level is kept within these many dB of its threshold
_HEAD = struct.Struct("<II")
_NONE = np.full((2, 1), np.nan)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PlaceDraws:
    """Draws of a rig at all places; the draws of one row belong together, over rigs too.

    `over` and `typical` have shape (draws, places): the level over the threshold [dB], as drawn for
    the very place, and at a typical place as far away. Shape (draws,): path exponent, spread of
    places about the typical one [dB], spread of frames [dB], share lost whatever the level; and what
    drawn walls cost against what is said of them, where the reading counts them, and the threshold [dBm].
    """

    over: Floats
    typical: Floats
    exponent: Floats
    place_db: Floats
    frame_db: Floats
    floor: Floats
    walls: Floats | None = None
    threshold: Floats | None = None

    @property
    def wall_factor(self) -> Floats:
        """Return what walls cost against what is said of them (draws,); 0 where they do not count."""
        return np.zeros(len(self.over)) if self.walls is None else self.walls

    def shares(self, gained_db: ArrayLike = 0.0) -> Floats:
        """Return the share of frames heard (draws, places), with so much gained [dB]."""
        return self.heard(self.over + np.asarray(gained_db))

    def heard(self, over: Floats) -> Floats:
        """Return the share of frames heard at levels over the threshold (draws, …) [dB]."""
        shape = (-1,) + (1,) * (over.ndim - 1)
        floor, spread = self.floor.reshape(shape), self.frame_db.reshape(shape)
        found: Floats = (1 - floor) * ndtr(over / spread)
        return found

    def meets(self, loss: float, gained_db: ArrayLike = 0.0) -> NDArray[np.bool_]:
        """Return whether the loss rule holds (draws, places), with so much gained [dB]."""
        found: NDArray[np.bool_] = (
            self.over + np.asarray(gained_db) >= self.wanted_db(loss)[:, None]
        )
        return found

    def wanted_db(self, loss: float) -> Floats:
        """Return the level over the threshold (draws,) from which the rule holds [dB].

        Infinite where more is lost whatever the level.
        """
        with np.errstate(divide="ignore", invalid="ignore"):
            share = (1 - loss) / (1 - self.floor)
            level = self.frame_db * ndtri(np.clip(share, 0.0, 1.0))
            wanted: Floats = np.where(share < 1, level, np.inf)
        return wanted

    def chances(self, loss: float, gained_db: ArrayLike = 0.0) -> Floats:
        """Return how likely the rule is met at each place (places,)."""
        found: Floats = self.meets(loss, gained_db).mean(axis=0)
        return found

    def some(self, most: int) -> PlaceDraws:
        """Return so many of the draws at most, evenly chosen, for what needs few."""
        count = min(most, len(self.over))
        rows = np.linspace(0, len(self.over) - 1, count).round().astype(int)
        return PlaceDraws(
            over=self.over[rows], typical=self.typical[rows], exponent=self.exponent[rows],
            place_db=self.place_db[rows], frame_db=self.frame_db[rows], floor=self.floor[rows],
            walls=None if self.walls is None else self.walls[rows],
            threshold=None if self.threshold is None else self.threshold[rows],
        )  # fmt: skip

    def kept(self) -> str:
        """Return the draws as text."""
        rows = thinned(*self.over.shape)
        ends = [np.clip(one[rows], -FARTHEST_DB, FARTHEST_DB) for one in (self.over, self.typical)]
        levels = [np.round(one / STEP_DB).astype("<i2").tobytes() for one in ends]
        unknown = np.full(len(self.over), np.nan)
        extra = [unknown if one is None else one for one in (self.threshold, self.walls)]
        single = [self.exponent, self.place_db, self.frame_db, self.floor, *extra]
        others = np.stack(single)[:, rows]
        head = _HEAD.pack(len(rows), self.over.shape[1])
        packed = zlib.compress(head + b"".join(levels) + others.astype("<f4").tobytes(), 6)
        return base64.b64encode(packed).decode()

    @classmethod
    def from_kept(cls, text: str) -> PlaceDraws | None:
        """Return the draws written by `kept`; None where there are none."""
        if not text:
            return None
        data = zlib.decompress(base64.b64decode(text))
        count, places = _HEAD.unpack_from(data)
        levels = np.frombuffer(data, "<i2", 2 * count * places, _HEAD.size)
        others = np.frombuffer(data, "<f4", -1, _HEAD.size + levels.nbytes)
        over, typical = levels.reshape(2, count, places) * STEP_DB
        exponent, place_db, frame_db, floor, *more = others.reshape(-1, count).astype(np.float64)
        # readings of before either was kept have four
        threshold, walls = (
            None if np.isnan(one).any() else one for one in (more if len(more) == 2 else _NONE)
        )
        return cls(
            over=over, typical=typical, exponent=exponent,
            place_db=place_db, frame_db=frame_db, floor=floor, walls=walls, threshold=threshold,
        )  # fmt: skip


def thinned(draws: int, places: int) -> NDArray[np.intp]:
    """Return which draws are kept of so many, the same for all rigs."""
    count = min(draws, int(np.clip(CELLS // max(places, 1), LEAST, MOST)))
    return np.linspace(0, draws - 1, count).round().astype(int)


def counted(meets: NDArray[Any]) -> Estimate:
    """Return how many places meet the rule, from draws (draws, places) that do or do not."""
    counts = meets.sum(axis=1)
    low, high = np.quantile(counts, (0.025, 0.975), method="inverted_cdf")
    return Estimate(float(np.median(counts)), float(low), float(high))
