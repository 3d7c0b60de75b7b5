"""Walls drawn on a plan: what a straight path loses at each it goes through, added up.

The multi-wall model: the law of the path is taken as it is without the walls, and each wall that the
straight line crosses adds its own loss, whatever the angle (COST Action 231, final report, clause
4.7.2). A wall is higher than both antennas. What goes around it, by doors and reflections, bounds
what one wall can cost.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike

from inchmark.core.checks import Floats, positive, within
from inchmark.core.geodesy import Place
from inchmark.core.propagation.crossings import Pieces, Segments, crossed_sums, crossing_counts
from inchmark.core.propagation.materials import MATERIALS, Sheet

MOST_WALL_DB = 40.0  # by one wall: more comes round it than through it; common practice
MOST_SEGMENTS = 4000  # of all walls of a study
THINNEST_M, THICKEST_M = 0.0005, 3.0


class WallKind(NamedTuple):
    """What a wall is made of: words, usual thickness [m], or loss of one crossing whatever the frequency [dB]."""

    words: str
    thickness_m: float | None
    loss_db: float | None = None


KINDS = {
    # light and heavy: COST 231, final report, table 4.7.2, as measured at 1.8 GHz; from memory
    "light": WallKind("light wall (plasterboard, hollow blocks)", None, 3.4),
    "heavy": WallKind("heavy wall (concrete, brick)", None, 6.9),
    # usual thicknesses: common practice
    "concrete": WallKind("concrete", 0.15),
    "brick": WallKind("brick", 0.24),
    "plasterboard": WallKind("plasterboard", 0.025),
    "wood": WallKind("wood", 0.04),
    "glass": WallKind("glass", 0.006),
    "chipboard": WallKind("chipboard", 0.02),
    "metal": WallKind("metal", 0.001),
    "typed": WallKind("loss typed", None),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Wall:
    """A wall along points [degrees]: what it is, how thick [m], or its typed loss a crossing [dB].

    A typed loss goes before kind and thickness; no thickness means the usual one.
    """

    points: tuple[tuple[float, float], ...]  # latitude, longitude
    kind: str = "light"
    thickness_m: float | None = None
    loss_db: float | None = None
    name: str = ""

    def __post_init__(self) -> None:
        """Refuse a wall that cannot be."""
        if self.kind not in KINDS:
            raise ValueError(f"kind={self.kind!r} must be one of {', '.join(KINDS)}")
        if len(self.points) < 2:
            raise ValueError("a wall has two points or more")
        if self.kind == "typed" and self.loss_db is None:
            raise ValueError("a wall of the kind 'typed' needs its loss_db")
        if self.thickness_m is not None:
            within("thickness_m", self.thickness_m, THINNEST_M, THICKEST_M)
        if self.loss_db is not None:
            within("loss_db", self.loss_db, 0, 100)

    def crossing_db(self, frequency_hz: float) -> float:
        """Return what one crossing costs [dB].

        A material is a single sheet met straight on (ITU-R P.2040-3), at most `MOST_WALL_DB`.
        """
        kind = KINDS[self.kind]
        if self.loss_db is not None:
            return self.loss_db
        if kind.loss_db is not None:
            return kind.loss_db
        thickness = self.thickness_m or kind.thickness_m or THINNEST_M
        sheet = Sheet(material=MATERIALS[self.kind], thickness_m=thickness)
        return min(sheet.loss_db(float(positive("frequency_hz", frequency_hz))), MOST_WALL_DB)

    @property
    def follows_frequency(self) -> bool:
        """Tell whether its loss depends on the frequency."""
        return self.loss_db is None and KINDS[self.kind].loss_db is None

    def stated_at(self, frequency_hz: float) -> bool:
        """Tell whether its material is stated at a frequency; elsewhere it is extrapolated."""
        return not self.follows_frequency or MATERIALS[self.kind].holds_at(frequency_hz)


@dataclass(frozen=True, kw_only=True, eq=False)
class Walls:
    """The walls of a site; equal only to itself, so that what rests on it can be kept by it."""

    walls: tuple[Wall, ...]

    def __post_init__(self) -> None:
        """Refuse more than can be looked through while something is dragged."""
        if sum(len(one.points) - 1 for one in self.walls) > MOST_SEGMENTS:
            raise ValueError(f"walls of over {MOST_SEGMENTS} straight pieces; simplify them")

    def losses_db(
        self, start: Place, lat_deg: ArrayLike, lon_deg: ArrayLike, frequency_hz: float
    ) -> Floats:
        """Return what the walls cost from one place to many, shape (places,) [dB]."""
        segments = self._segments(start)
        each = self._each_db(frequency_hz)
        return crossed_sums(segments, lat_deg, lon_deg, each[segments.owner])

    def _each_db(self, frequency_hz: float) -> Floats:
        """Return what each wall costs [dB]; receivers are looked for from hundreds of places at one frequency."""
        if frequency_hz not in self._crossings:
            costs = [one.crossing_db(frequency_hz) for one in self.walls]
            self._crossings[frequency_hz] = np.array(costs)
        return self._crossings[frequency_hz]

    @cached_property
    def _crossings(self) -> dict[float, Floats]:
        return {}

    def crossed(
        self, start: Place, lat_deg: ArrayLike, lon_deg: ArrayLike
    ) -> np.ndarray[tuple[int, int], np.dtype[np.int64]]:
        """Return how often each wall is crossed on the way to each place, (places, walls)."""
        return crossing_counts(self._segments(start), lat_deg, lon_deg, len(self.walls))

    def _segments(self, start: Place) -> Segments:
        return self._pieces.seen_from(start)

    @cached_property
    def _pieces(self) -> Pieces:
        return Pieces.of([one.points for one in self.walls])


def crossed_words(walls: Walls, counts: Sequence[int]) -> str:
    """Return which walls a path crosses: “2 walls (brick, light wall)”."""
    total = int(sum(counts))
    names = [
        one.name or KINDS[one.kind].words.split(" (")[0]
        for one, count in zip(walls.walls, counts, strict=True)
        if count
    ]
    told = ", ".join(dict.fromkeys(names))
    return f"{total} wall{'' if total == 1 else 's'} ({told})" if total else "No wall"
