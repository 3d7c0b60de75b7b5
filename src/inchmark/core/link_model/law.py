"""How the path loses with distance, in the form a fit needs: slopes to find, and loss known.

===============  ==============================================================================
one slope        mu falls by 10 n lg d; n ~ N(3, 1)
two slopes       the second begins at the break distance; n1 ~ N(2.2, 0.5), added ~ N(1.8, 0.8)
physics          the loss over the ground is known from heights; a residual slope ~ N(0, 0.4)
terrain          as physics, with the loss to each stop known from its own profile
===============  ==============================================================================

Any of them may have walls added: what drawn walls cost on the way to each stop, times one factor to
find, ~ N(1, 0.4). One slope beside walls is that of the path without them, n ~ N(2.4, 0.7).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from inchmark.core.checks import Floats

SLOPE_BESIDE_WALLS, SLOPE_BESIDE_WALLS_SD = 2.4, 0.7
# a wall's loss as said is off by some 3 dB in 7 (COST 231 gives 3.4 and 6.9 dB for what vary so)
WALL_FACTOR, WALL_FACTOR_SD = 1.0, 0.4
SLOPE, TWO_SLOPES, GROUND, TERRAIN = "one slope", "two slopes", "ground", "terrain"


@dataclass(frozen=True, slots=True, kw_only=True)
class PathLaw:
    """A law with its priors; `known_lg_m` and `known_loss_db` are a curve of loss known before.

    `at_stops` holds stops whose own loss is known, on the scale of the curve. `walls_lg_m` and
    `walls_db` are what drawn walls cost by distance, `walls_at` on the way of a rig from a place of
    receivers to a stop; "" stands for any rig, or for the fixed end. `walls_by_rig` are curves of rigs
    at frequencies of their own.
    """

    kind: str = SLOPE
    prior_mean: tuple[float, ...] = (3.0,)  # from guided (2) to dense (4) and beyond
    prior_sd: tuple[float, ...] = (1.0,)
    break_m: float | None = None
    known_lg_m: tuple[float, ...] = ()
    known_loss_db: tuple[float, ...] = ()
    at_stops: tuple[tuple[str, float], ...] = ()
    walls_lg_m: tuple[float, ...] = ()
    walls_db: tuple[float, ...] = ()
    walls_at: tuple[tuple[tuple[str, str, str], float], ...] = ()
    walls_by_rig: tuple[tuple[str, tuple[float, ...]], ...] = ()

    @property
    def walled(self) -> bool:
        """Tell whether drawn walls are counted; their factor is then the last of the slopes."""
        return bool(self.walls_lg_m)

    @property
    def name(self) -> str:
        """Return its kind, and whether walls are counted beside it."""
        return f"{self.kind} beside walls" if self.walled else self.kind

    @property
    def plain(self) -> bool:
        """Tell whether the loss is one slope and nothing else."""
        return self.kind == SLOPE and not self.walled

    def basis(self, distance_m: Floats, centre_m: float) -> Floats:
        """Return what each slope is multiplied with, (..., K); 0 at the centre distance.

        But for walls: what they cost there, so that a level at the centre is one without walls.
        """
        d = np.asarray(distance_m, dtype=np.float64)
        columns = [10 * np.log10(d / centre_m)]
        if self.kind == TWO_SLOPES and self.break_m:
            columns.append(_beyond(d, self.break_m) - _beyond(np.array(centre_m), self.break_m))
        if self.walled:
            columns.append(self.walls_along_db(d))
        return np.stack(columns, axis=-1)

    def walls_along_db(self, distance_m: Floats) -> Floats:
        """Return what walls cost at distances along the walked bearings, as said [dB]."""
        found: Floats = np.interp(np.log10(distance_m), self.walls_lg_m, self.walls_db)
        return found

    def of_rig(self, rig: str) -> PathLaw:
        """Return the law as a rig's walls are by distance; itself where all have the same."""
        own = dict(self.walls_by_rig).get(rig)
        return self if own is None else replace(self, walls_db=own)

    def basis_at_stops(
        self, ways: Sequence[tuple[str, str, str]], distance_m: Floats, centre_m: float
    ) -> Floats:
        """Return the basis at stops, with the walls on the very ways: rig, place of receivers, stop."""
        found = self.basis(distance_m, centre_m)
        if self.walled:
            known = dict(self.walls_at)
            for i, (rig, receiver, stop) in enumerate(ways):
                own = on_way(known, rig, receiver, stop)
                found[i, -1] = found[i, -1] if own is None else own
        return found

    def known_db(self, distance_m: Floats, centre_m: float) -> Floats:
        """Return the loss known beforehand, about that at the centre distance [dB]."""
        d = np.asarray(distance_m, dtype=np.float64)
        if not self.known_lg_m:
            return np.zeros_like(d)
        found = self._known(np.log10(d)) - self._known(np.log10(np.array(centre_m)))
        return np.asarray(found, dtype=np.float64)

    def known_at_stops_db(
        self, stops: Sequence[str], distance_m: Floats, centre_m: float
    ) -> Floats:
        """Return the loss known beforehand at stops, by their own paths where those are known [dB]."""
        found = self.known_db(distance_m, centre_m)
        if self.at_stops:
            own, centre = dict(self.at_stops), float(self._known(np.log10(np.array(centre_m))))
            for i, stop in enumerate(stops):
                if stop in own:
                    found[i] = own[stop] - centre
        return found

    def own_path_db(self, path_db: float, distance_m: float, centre_m: float) -> float:
        """Return how much more a place's own path loses than the curve at its distance [dB].

        The loss is on the scale of the curve; 0 unless paths are known one by one.
        """
        if self.kind != TERRAIN:
            return 0.0
        at_centre = float(self._known(np.log10(np.array(centre_m))))
        return path_db - at_centre - float(self.known_db(np.array(distance_m), centre_m))

    def _known(self, lg_m: Floats) -> Floats:
        """Interpolate; beyond the curve it goes on as it ends."""
        x, y = np.array(self.known_lg_m), np.array(self.known_loss_db)
        inside = np.interp(lg_m, x, y)
        low, high = (y[1] - y[0]) / (x[1] - x[0]), (y[-1] - y[-2]) / (x[-1] - x[-2])
        found: Floats = (
            inside + np.minimum(lg_m - x[0], 0) * low + np.maximum(lg_m - x[-1], 0) * high
        )
        return found


ONE_SLOPE = PathLaw()


def two_slopes(break_m: float) -> PathLaw:
    """Return the law whose slope steepens at the break distance [m]."""
    return PathLaw(kind=TWO_SLOPES, prior_mean=(2.2, 1.8), prior_sd=(0.5, 0.8), break_m=break_m)


def over_ground(distance_m: Floats, loss_db: Floats, break_m: float | None = None) -> PathLaw:
    """Return the law whose loss is known at distances, but for a residual slope."""
    order = np.argsort(distance_m)
    return PathLaw(
        kind=GROUND,
        prior_mean=(0.0,),
        prior_sd=(0.4,),
        break_m=break_m,
        known_lg_m=tuple(np.log10(np.asarray(distance_m))[order].tolist()),
        known_loss_db=tuple(np.asarray(loss_db)[order].tolist()),
    )


def over_terrain(
    distance_m: Floats, loss_db: Floats, at_stops: Mapping[str, float], break_m: float | None = None
) -> PathLaw:
    """Return the law over known terrain: a curve along the walked bearings, each stop by its own path."""
    curve = over_ground(distance_m, loss_db, break_m)
    return replace(curve, kind=TERRAIN, at_stops=tuple(sorted(at_stops.items())))


def on_way(known: Mapping[Any, float], rig: str, receiver: str, *stop: str) -> float | None:
    """Return what is known of a way, None without any; "" stands for any rig, and for the fixed end.

    A receiver nobody has placed stands at the fixed end.
    """
    asked = ((who, at, *stop) for at in (receiver, "") for who in (rig, ""))
    return next((known[one] for one in asked if one in known), None)


def beside_walls(
    law: PathLaw,
    distance_m: Sequence[float],
    walls_db: Sequence[float],
    at: Mapping[tuple[str, str, str], float],
    by_rig: Mapping[str, Sequence[float]] | None = None,
) -> PathLaw:
    """Return a law with walls: by distance, and on ways of rigs from places of receivers to stops [dB]."""
    mean, sd = law.prior_mean, law.prior_sd
    if law.kind == SLOPE:
        mean, sd = (SLOPE_BESIDE_WALLS,), (SLOPE_BESIDE_WALLS_SD,)
    return replace(
        law,
        prior_mean=(*mean, WALL_FACTOR),
        prior_sd=(*sd, WALL_FACTOR_SD),
        walls_lg_m=tuple(np.log10(np.asarray(distance_m)).tolist()),
        walls_db=tuple(walls_db),
        walls_at=tuple(sorted(at.items())),
        walls_by_rig=tuple((rig, tuple(curve)) for rig, curve in (by_rig or {}).items()),
    )


def _beyond(distance_m: Floats, break_m: float) -> Floats:
    found: Floats = 10 * np.maximum(np.log10(distance_m / break_m), 0.0)
    return found
