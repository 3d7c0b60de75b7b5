"""What the way between costs, metre by metre: the same physics as Plan, and what places add."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.geodesy import Place
from inchmark.core.prediction import Paths, Surroundings, predict_paths
from inchmark.core.propagation.diffraction import delta_bullington
from inchmark.core.terrain import TerrainGrid
from inchmark.devices.simulator.route import At

STEP_M = 2.0
MOST_POINTS = 4000
SHADOW_LENGTH_M = (
    40.0  # over which what a place adds is forgotten to 1/e; order of size, common practice
)
LEAST_M = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Ends:
    """Heights above ground of the fixed end and the carrier [m], and the frequency [Hz]."""

    fixed_m: float = 4.0
    carried_m: float = 1.5
    frequency_hz: float = 868.1e6


@dataclass(slots=True)
class Ground:
    """Loss of the path by distance, with shadowing drawn once for the whole way."""

    farthest_m: float
    surroundings: Surroundings
    ends: Ends
    random: np.random.Generator
    diffraction_db: Floats | None = None  # at `metres`, where terrain is known
    metres: Floats = field(init=False)
    way_db: Floats = field(init=False)

    def __post_init__(self) -> None:
        """Work the whole way out once."""
        self.metres = way(self.farthest_m)
        paths = Paths(
            distance_m=self.metres,
            height1_m=np.asarray(self.ends.fixed_m),
            height2_m=np.asarray(self.ends.carried_m),
            frequency_hz=self.ends.frequency_hz,
            diffraction_db=np.nan if self.diffraction_db is None else self.diffraction_db,
        )
        found = predict_paths(paths, self.surroundings)
        spread = self.surroundings.shadowing_db
        self.way_db = found.loss_db + _shadows(self.metres, spread, self.random)

    def loss_db(self, board: str, at: At) -> float:
        """Return the loss where the carrier is [dB], the same for every board."""
        return float(np.interp(max(at.metres, LEAST_M), self.metres, self.way_db))


@dataclass(slots=True)
class PowerLaw:
    """Loss by a power of distance from 1 m on, with shadowing drawn once for the whole way."""

    farthest_m: float
    loss_1m_db: float
    exponent: float
    shadowing_db: float
    random: np.random.Generator
    metres: Floats = field(init=False)
    way_db: Floats = field(init=False)

    def __post_init__(self) -> None:
        """Work the whole way out once."""
        self.metres = way(self.farthest_m)
        slope = 10 * self.exponent * np.log10(self.metres)
        self.way_db = (
            self.loss_1m_db + slope + _shadows(self.metres, self.shadowing_db, self.random)
        )

    def loss_db(self, board: str, at: At) -> float:
        """Return the loss where the carrier is [dB], the same for every board."""
        return float(np.interp(max(at.metres, LEAST_M), self.metres, self.way_db))


def _shadows(metres: Floats, spread_db: float, random: np.random.Generator) -> Floats:
    """Return what places add [dB] along a way in even steps: correlated, with some spread."""
    keep = float(np.exp(-(metres[1] - metres[0]) / SHADOW_LENGTH_M))
    fresh = random.standard_normal(metres.size)
    found, last = np.empty(metres.size), float(fresh[0])
    for i, one in enumerate(fresh):
        last = last if i == 0 else keep * last + np.sqrt(1 - keep**2) * one
        found[i] = last
    return spread_db * found


@dataclass(frozen=True, slots=True)
class Charted:
    """Losses that are known at stops, by board and stop [dB]; on the way they run between by distance."""

    losses: Mapping[str, Mapping[str, float]]
    metres: Mapping[str, float]

    def loss_db(self, board: str, at: At) -> float:
        """Return the loss of a board's path where the carrier is [dB]."""
        known = self.losses[board]
        if at.stop:
            return known[at.stop]
        near = sorted((max(self.metres[stop], LEAST_M), known[stop]) for stop in known)
        logs, found = np.log10([m for m, _ in near]), [loss for _, loss in near]
        return float(np.interp(np.log10(max(at.metres, LEAST_M)), logs, found))


def way(farthest_m: float) -> Floats:
    """Return the distances a way is worked out at [m]."""
    count = int(np.clip(farthest_m / STEP_M, 2, MOST_POINTS))
    return np.linspace(LEAST_M, max(farthest_m, 2 * LEAST_M), count)


def over_terrain(grid: TerrainGrid, start: Place, places: Sequence[Place], ends: Ends) -> Floats:
    """Return what terrain costs from a place to each of others [dB], by delta-Bullington.

    Raises
    ------
    ValueError
        The terrain does not cover the way.
    """
    profiles = grid.profiles(start, [p.lat_deg for p in places], [p.lon_deg for p in places])
    found = np.empty(len(places))
    for i, profile in enumerate(profiles):
        if profile is None:
            raise ValueError(
                "The terrain does not cover the whole way. Shorten the route, or name its start."
            )
        metres, heights = profile
        found[i] = float(
            delta_bullington(
                metres, heights, height1_m=ends.fixed_m, height2_m=ends.carried_m,
                frequency_hz=ends.frequency_hz,
            ).loss_db
        )  # fmt: skip
    return found
