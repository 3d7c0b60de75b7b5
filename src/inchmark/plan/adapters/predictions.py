"""What rigs should do at stops and needed places, heard by fixed ends."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.prediction import (
    PathPrediction,
    PathPredictions,
    Paths,
    StopPrediction,
    Surroundings,
    predict_paths,
    predict_stops,
)
from inchmark.core.propagation.diffraction import delta_bullington
from inchmark.core.terrain import TerrainGrid
from inchmark.plan.adapters.paths import (
    Profile,
    heights_of,
    is_magnetic,
    link_of,
    profiles_of,
    surroundings_of,
)
from inchmark.plan.adapters.places import FixedEnd, Target, targets_from
from inchmark.plan.adapters.walls import OnTheWay
from inchmark.plan.models import Site, SitePoint, Stop
from inchmark.shelf.models import Rig


@dataclass(frozen=True, slots=True, kw_only=True)
class RigAtStop:
    """A rig at a stop or needed place, heard by one fixed end."""

    rig: Rig
    path: PathPrediction
    stop: StopPrediction
    by: FixedEnd


@dataclass(frozen=True, slots=True, kw_only=True)
class StopCells:
    """A stop or needed place with what each rig should do there."""

    stop: Target
    cells: list[RigAtStop]

    @property
    def warnings(self) -> list[str]:
        """Return where the models do not hold, each said once."""
        return list(dict.fromkeys(w for cell in self.cells for w in cell.path.warnings))


def predictions(
    targets: Sequence[Target],
    rigs: Sequence[Rig],
    site: Site | None,
    grid: TerrainGrid | None,
    fixed: FixedEnd,
    *,
    around: Surroundings | None = None,
) -> list[StopCells]:
    """Return every rig at every target, heard by one fixed end; as the site says, or as given."""
    if not targets:
        return []
    around = around or surroundings_of(site)
    over = around.model == "terrain" and around.walked is None
    profiles = profiles_of(targets, fixed, grid) if over else [None] * len(targets)
    walls = around.walls if around.wall_factor else None
    on_way = OnTheWay(walls=walls, fixed=fixed, targets=targets) if walls else None
    columns = list(_columns(targets, rigs, around, profiles, fixed, on_way))
    return [
        StopCells(stop=target, cells=[column[i] for column in columns])
        for i, target in enumerate(targets)
    ]


def best_predictions(
    ones: Sequence[Stop | SitePoint],
    rigs: Sequence[Rig],
    site: Site | None,
    grid: TerrainGrid | None,
    ends: Sequence[FixedEnd],
    *,
    around: Surroundings | None = None,
) -> list[StopCells]:
    """Return every rig at every place, heard by the fixed end that should hear most of it."""
    found: dict[tuple[bool, int], StopCells] = {}
    for end in ends:
        for row in predictions(targets_from(ones, end), rigs, site, grid, end, around=around):
            key = row.stop.needed, row.stop.pk
            found[key] = _better(found[key], row) if key in found else row
    keys = [(isinstance(one, SitePoint), one.pk) for one in ones]
    return [found[key] for key in keys if key in found]


def _better(first: StopCells, other: StopCells) -> StopCells:
    pairs = zip(first.cells, other.cells, strict=True)
    cells = [a if a.stop.expected_share >= b.stop.expected_share else b for a, b in pairs]
    return StopCells(stop=first.stop, cells=cells)


def _columns(
    targets: Sequence[Target],
    rigs: Sequence[Rig],
    around: Surroundings,
    profiles: Sequence[Profile | None],
    fixed: FixedEnd,
    on_way: OnTheWay | None,
) -> Iterator[list[RigAtStop]]:
    """Yield a rig's cells at all targets; rigs alike in heights and frequency share their paths."""
    known: dict[object, PathPredictions] = {}
    crossed = on_way.words() if on_way else []
    for rig in rigs:
        own = around.for_rig(rig.letter)
        key = rig.fixed_height_m, rig.height_m, rig.frequency_hz, is_magnetic(rig), own.walked
        if key not in known:
            paths = _paths(targets, rig, around, profiles, fixed)
            if on_way:
                walls_db = on_way.losses_db(rig.frequency_hz)
                paths = replace(paths, walls_db=walls_db, crossed=crossed)
            known[key] = predict_paths(paths, own)
        losses = known[key].loss_db
        stops = predict_stops(link_of(rig), losses, shadowing_db=around.shadowing_db)
        yield [
            RigAtStop(rig=rig, path=known[key].at(i), stop=stop, by=fixed)
            for i, stop in enumerate(stops)
        ]


def loss_between(rig: Rig, site: Site | None, metres: float) -> PathPrediction:
    """Return what a path to no particular place loses, by the site's way of predicting them."""
    around = surroundings_of(site)
    if around.model == "terrain":  # it has no one loss at a distance
        around = replace(around, model="two_ray")
    paths = Paths(
        distance_m=np.array([metres]),
        height1_m=np.asarray(rig.fixed_height_m),
        height2_m=np.asarray(rig.height_m),
        frequency_hz=rig.frequency_hz,
        magnetic=is_magnetic(rig),
    )
    return predict_paths(paths, around).at(0)


def _paths(
    targets: Sequence[Target],
    rig: Rig,
    around: Surroundings,
    profiles: Sequence[Profile | None],
    fixed: FixedEnd,
) -> Paths:
    heights = np.array([heights_of(rig, fixed, one) for one in targets])
    return Paths(
        distance_m=np.array([one.distance_m for one in targets]),
        height1_m=heights[:, 0],
        height2_m=heights[:, 1],
        frequency_hz=rig.frequency_hz,
        cover=[one.cover for one in targets],
        cover_m=np.array([one.cover_m for one in targets]),
        floors=np.array([float(one.floors) for one in targets]),
        diffraction_db=_diffraction(profiles, heights, rig.frequency_hz, around.polarisation),
        magnetic=is_magnetic(rig),
    )


def _diffraction(
    profiles: Sequence[Profile | None],
    heights: np.ndarray,
    frequency_hz: float,
    polarisation: str,
) -> np.ndarray:
    """Return what terrain costs on each path [dB], NaN without a profile; like lengths together."""
    found = np.full(len(profiles), np.nan)
    by_length: dict[int, list[int]] = {}
    for i, profile in enumerate(profiles):
        if profile is not None:
            by_length.setdefault(len(profile[0]), []).append(i)
    for rows in by_length.values():
        both = [profiles[i] for i in rows]
        found[rows] = delta_bullington(
            np.array([one[0] for one in both if one]),
            np.array([one[1] for one in both if one]),
            height1_m=heights[rows, 0],
            height2_m=heights[rows, 1],
            frequency_hz=frequency_hz,
            polarisation=polarisation,
        ).loss_db
    return found
