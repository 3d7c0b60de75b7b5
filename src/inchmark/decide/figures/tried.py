"""Needed places of one rig, as they are and as what is tried on the page would make them."""

from __future__ import annotations

import zlib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats
from inchmark.core.deciding.cover import chance_map
from inchmark.core.deciding.effects import Effect, effect_of, meets_from
from inchmark.core.geodesy import Place, destination, map_distances_m
from inchmark.core.margin_map import Box, MarginMap
from inchmark.core.reading.expected import LIKELY
from inchmark.core.reading.place_draws import PlaceDraws
from inchmark.core.terrain_paths import NEAREST_M, losses_from
from inchmark.decide.figures.ground import Ground
from inchmark.decide.figures.mends import SEED, Basis

UNLIKELY = 1 - LIKELY
MAP_CELLS = 160  # a side, while something is dragged


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """What is tried: the fixed end's mast [m], another spot for it, receivers more [degrees]."""

    mast_m: float | None = None
    fixed: tuple[float, float] | None = None
    receivers: tuple[tuple[float, float], ...] = ()

    @property
    def anything(self) -> bool:
        """Tell whether something is tried."""
        return self.mast_m is not None or self.fixed is not None or bool(self.receivers)


@dataclass(frozen=True, kw_only=True, eq=False)
class TriedPlaces:
    """A rig's places with what is tried."""

    basis: Basis
    tried: Tried

    @cached_property
    def ground(self) -> Ground:
        """Return the ground with the mast that is tried."""
        ground = self.basis.ground
        if self.tried.mast_m is None:
            return ground
        return replace(ground, end=replace(ground.end, height_m=self.tried.mast_m))

    @cached_property
    def effect(self) -> Effect:
        """Return what the places are like with all that is tried."""
        basis = self.basis
        if not self.tried.anything:
            return basis.now
        met = self._by_fixed()
        if self.tried.receivers:
            spots = basis.ground.spots(self.tried.receivers, self.ground.mast_m)
            for i in range(len(self.tried.receivers)):
                met = met | meets_from(basis.draws, basis.loss, spots, i, seed=SEED)
        return effect_of(met)

    def _by_fixed(self) -> NDArray[Any]:
        basis, tried = self.basis, self.tried
        if tried.fixed is not None:
            spots = basis.ground.spots([tried.fixed], self.ground.mast_m)
            return meets_from(basis.draws, basis.loss, spots, 0, seed=SEED)
        gains = basis.ground.raised(self.ground.mast_m) if tried.mast_m is not None else 0.0
        return basis.draws.meets(basis.loss, gains)

    def map(self, size: int = MAP_CELLS) -> MarginMap | None:
        """Return how likely the rule is met everywhere around; None without coordinates."""
        ends = self._ends()
        if not ends:
            return None
        lat, lon = self._axes(size, ends)
        lats, lons = (axis.ravel() for axis in np.meshgrid(lat, lon, indexing="ij"))
        maps = [self._chances(end, lats, lons) for end in ends]
        best = np.fmax.reduce(maps).reshape(size, size)
        return MarginMap(lat_deg=lat, lon_deg=lon, share=best)

    def _ends(self) -> list[Place]:
        start = self.basis.ground.end.place
        spots = [] if start is None else [(start.lat_deg, start.lon_deg)]
        spots = [self.tried.fixed] if self.tried.fixed else spots
        return [Place(lat_deg=lat, lon_deg=lon) for lat, lon in (*spots, *self.tried.receivers)]

    def _axes(self, size: int, ends: Sequence[Place]) -> tuple[Floats, Floats]:
        places = self.basis.ground.places
        spots = [
            (one.lat, one.lon) for one in places if one.lat is not None and one.lon is not None
        ]
        spots += [(one.lat_deg, one.lon_deg) for one in ends]
        if len(spots) == len(ends):  # a distance without a place: all around the first end
            metres = float(np.max(self.basis.ground.metres, initial=NEAREST_M))
            rim = [destination(ends[0], turn, metres) for turn in (0.0, 90.0, 180.0, 270.0)]
            spots += [(one.lat_deg, one.lon_deg) for one in rim]
        grid = self.basis.ground.grid if self.basis.ground.over_terrain else None
        return Box.around(spots, grid).axes(size)

    def _chances(self, end: Place, lat: Floats, lon: Floats) -> Floats:
        basis, ground = self.basis, self.basis.ground
        heights = ground.heights_m
        usual = float(np.median(heights))
        there = (
            np.array([one.lat or 0.0 for one in ground.places]),
            np.array([one.lon or 0.0 for one in ground.places]),
        )
        walls = {
            "places_walls": ground.behind_db(ground.end.place, *there),
            "cells_walls": ground.behind_db(end, lat, lon),
        }
        if ground.grid is not None and ground.over_terrain and ground.end.place is not None:
            radio = {
                "frequency_hz": ground.rig.frequency_hz,
                "polarisation": ground.site.polarisation if ground.site else "vertical",
            }
            places = losses_from(
                ground.grid, ground.end.place, *there,
                height1_m=ground.mast_m, height2_m=heights, **radio,  # type: ignore[arg-type]
            )  # fmt: skip
            cells = losses_from(
                ground.grid, end, lat, lon,
                height1_m=self.ground.mast_m, height2_m=usual, **radio,  # type: ignore[arg-type]
            )  # fmt: skip
            flat = np.zeros(len(lat))
            return chance_map(
                basis.draws, basis.loss, places_db=places + ground.cover_db, cells_db=cells,
                places_decades=np.zeros(len(places)), cells_decades=flat, **walls,
            )  # fmt: skip
        away = np.maximum(map_distances_m(end, lat, lon), NEAREST_M)
        gain = float(np.median(ground.raised(self.ground.mast_m)))
        return chance_map(
            basis.draws, basis.loss,
            places_db=ground.own_height_db(usual) + ground.cover_db, cells_db=np.full(len(away), -gain),
            places_decades=10 * np.log10(ground.metres), cells_decades=10 * np.log10(away), **walls,
        )  # fmt: skip


def verdict_of(chance: float) -> str:
    """Return whether a place holds, is short, or open."""
    return "holds" if chance >= LIKELY else "short" if chance <= UNLIKELY else "open"


def draws_of(kept: str) -> PlaceDraws | None:
    """Return the draws a reading kept, None where it has none or they cannot be read."""
    try:
        return PlaceDraws.from_kept(kept)
    except (ValueError, zlib.error):
        return None
