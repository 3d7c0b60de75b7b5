"""What other heights and other spots make of the paths to needed places.

Over terrain or flat ground, and through the walls that are drawn, as the walk found them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.deciding.effects import Spots
from inchmark.core.geodesy import Place, destination, distances_m
from inchmark.core.propagation.two_ray import GROUNDS, smoothed_two_ray_loss_db
from inchmark.core.propagation.walls import Walls
from inchmark.core.terrain import TerrainGrid
from inchmark.core.terrain_paths import NEAREST_M, losses_from
from inchmark.plan.adapters.places import FixedEnd, Target
from inchmark.plan.models import Site
from inchmark.shelf.models import Rig

SIDE = 14  # of the grid of spots a receiver is looked for on
BEYOND = 0.15  # of its sides, around the places


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Ground:
    """The places of a study as one rig meets them: where they lie, over what, from which end.

    `walls` are those that the reading counts; `cover_db` is what covers each place beyond what covered
    the stops walked to, on average (places,) [dB].
    """

    site: Site | None
    grid: TerrainGrid | None
    end: FixedEnd
    places: Sequence[Target]
    rig: Rig
    walls: Walls | None = None
    cover_db: Floats | float = 0.0

    @property
    def over_terrain(self) -> bool:
        """Tell whether paths are worked out over terrain, to every place and from the fixed end."""
        return self.grid is not None and self.end.place is not None and bool(np.all(self._inside))

    @property
    def words(self) -> str:
        """Return over what paths are worked out."""
        law = "over the terrain" if self.over_terrain else "over flat ground, two rays"
        return f"{law}, and through the walls drawn" if self.walls else law

    @property
    def metres(self) -> Floats:
        """Return how far the places are (places,) [m]."""
        return np.array([one.distance_m for one in self.places])

    @property
    def heights_m(self) -> Floats:
        """Return how high the antenna stands at each place (places,) [m]."""
        return np.array([one.antenna_m(self.rig) for one in self.places])

    @property
    def mast_m(self) -> float:
        """Return how high the antenna of the fixed end stands [m]."""
        return self.end.antenna_m(self.rig)

    def raised(self, mast_m: float) -> Floats:
        """Return what each path gains by another height at the fixed end (places,) [dB]."""
        return self._loss(self.mast_m, self.heights_m) - self._loss(mast_m, self.heights_m)

    def lifted(self, place: int, height_m: float) -> float:
        """Return what a path gains by another height at its place [dB]."""
        heights = self.heights_m
        now = self._loss(self.mast_m, heights)[place]
        heights[place] = height_m
        return float(now - self._loss(self.mast_m, heights)[place])

    def spots(self, ends: Sequence[tuple[float, float]], height_m: float | Floats) -> Spots:
        """Return how receivers elsewhere compare with the fixed end, by the height of their masts [m]."""
        heights, metres, flat = self.heights_m, self.metres, not self.over_terrain
        now = self._loss(self.mast_m, heights)
        lat, lon = self._coordinates
        behind = self.behind_db(self.end.place, lat, lon)
        masts = np.broadcast_to(height_m, (len(ends),))
        rows = []
        for (at_lat, at_lon), mast in zip(ends, masts, strict=True):
            start = Place(lat_deg=at_lat, lon_deg=at_lon)
            away = np.maximum(distances_m(start, lat, lon), NEAREST_M)
            if self.grid is not None and not flat:
                loss = self._over(self.grid, start, lat, lon, float(mast), heights)
                nearer, gain = np.zeros(len(away)), now - loss
            else:
                nearer, gain = 10 * np.log10(metres / away), np.zeros(len(away))
                if mast != self.mast_m:
                    before = self._flat(away, self.mast_m, heights)
                    gain = before - self._flat(away, float(mast), heights)
            rows.append((nearer, gain, behind - self.behind_db(start, lat, lon)))
        shorter, fixed, fewer = (np.array(one) for one in zip(*rows, strict=True))
        return Spots(
            nearer_db=shorter,
            fixed_db=np.where(np.isnan(fixed), -200.0, fixed),
            fewer_walls_db=fewer,
        )

    def moved(self, place: int, radii_m: Sequence[float], bearings: int) -> MovedSpots:
        """Return spots around a place, and what the path from each gains on that from the place."""
        one = self.places[place]
        centre = Place(lat_deg=one.lat or 0.0, lon_deg=one.lon or 0.0)
        turns = np.linspace(0, 360, bearings, endpoint=False).tolist()
        spots = [(r, destination(centre, turn, r)) for r in radii_m for turn in turns]
        lat = np.array([spot.lat_deg for _, spot in spots])
        lon = np.array([spot.lon_deg for _, spot in spots])
        height, start = self.heights_m[place], self.end.place
        now = self._loss(self.mast_m, self.heights_m)[place]
        if self.grid is not None and self.over_terrain and start is not None:
            gain = now - self._over(self.grid, start, lat, lon, self.mast_m, height)
            nearer = np.zeros(len(spots))
        elif start is not None:
            away = np.maximum(distances_m(start, lat, lon), NEAREST_M)
            gain, nearer = np.zeros(len(spots)), 10 * np.log10(one.distance_m / away)
        else:
            gain = nearer = np.zeros(len(spots))
        own = self.behind_db(start, np.array([centre.lat_deg]), np.array([centre.lon_deg]))
        return MovedSpots(
            metres=[r for r, _ in spots],
            spots=[spot for _, spot in spots],
            nearer_db=nearer,
            fixed_db=np.where(np.isnan(gain), -200.0, gain),
            fewer_walls_db=own - self.behind_db(start, lat, lon),
        )

    def candidates(self) -> list[tuple[float, float]]:
        """Return a grid of spots around the places on which a receiver may stand."""
        lat, lon = self._coordinates
        south, north = _widened(lat)
        west, east = _widened(lon)
        found = [
            (float(a), float(b))
            for a in np.linspace(south, north, SIDE)
            for b in np.linspace(west, east, SIDE)
        ]
        if self.grid is None or not self.over_terrain:
            return found
        heights = self.grid.height_m(*np.array(found).T)
        return [one for one, known in zip(found, ~np.isnan(heights), strict=True) if known]

    def own_height_db(self, usual_m: float) -> Floats:
        """Return what each place's own height costs against a usual one over flat ground (places,) [dB]."""
        usual = np.full(len(self.places), usual_m)
        found: Floats = self._flat(self.metres, self.mast_m) - self._flat(
            self.metres, self.mast_m, usual
        )
        return found

    def behind_db(self, start: Place | None, lat: Floats, lon: Floats) -> Floats:
        """Return what walls cost from an end to places, as they are said (places,) [dB]; 0 without any."""
        if self.walls is None or start is None:
            return np.zeros(len(lat))
        return self.walls.losses_db(start, lat, lon, self.rig.frequency_hz)

    @property
    def _coordinates(self) -> tuple[Floats, Floats]:
        return (
            np.array([one.lat or 0.0 for one in self.places]),
            np.array([one.lon or 0.0 for one in self.places]),
        )

    @property
    def _inside(self) -> Floats:
        if self.grid is None or self.end.place is None:
            return np.zeros(1)
        lat, lon = self._coordinates
        lats = np.append(lat, self.end.place.lat_deg)
        lons = np.append(lon, self.end.place.lon_deg)
        return ~np.isnan(self.grid.height_m(lats, lons))

    def _loss(self, mast_m: float, heights_m: Floats) -> Floats:
        """Return the loss to the places from the fixed end [dB]; only differences are used."""
        if self.grid is not None and self.end.place is not None and self.over_terrain:
            return self._over(self.grid, self.end.place, *self._coordinates, mast_m, heights_m)
        return self._flat(self.metres, mast_m, heights_m)

    def _over(
        self,
        grid: TerrainGrid,
        start: Place,
        lat: Floats,
        lon: Floats,
        mast_m: float,
        heights_m: Floats | float,
    ) -> Floats:
        return losses_from(
            grid, start, lat, lon, height1_m=mast_m, height2_m=heights_m,
            frequency_hz=self.rig.frequency_hz,
            polarisation=self.site.polarisation if self.site else "vertical",
        )  # fmt: skip

    def _flat(self, metres: Floats, mast_m: float, heights_m: Floats | None = None) -> Floats:
        """Return two rays over flat ground, averaged in power over their ripples [dB]."""
        return smoothed_two_ray_loss_db(
            mast_m,
            self.heights_m if heights_m is None else heights_m,
            metres,
            self.rig.frequency_hz,
            ground=GROUNDS[self.site.ground if self.site else "ground"],
        )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class MovedSpots:
    """Spots around a place: how far off each is, and what its path gains (spots,) [dB]."""

    metres: Sequence[float]
    spots: Sequence[Place]
    nearer_db: Floats
    fixed_db: Floats
    fewer_walls_db: Floats


def _widened(degrees: Floats) -> tuple[float, float]:
    low, high = float(np.min(degrees)), float(np.max(degrees))
    more = BEYOND * max(high - low, 1e-3)
    return low - more, high + more
