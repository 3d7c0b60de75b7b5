"""Paths from fixed ends to stops and needed places: profiles, side views, predictions."""

from __future__ import annotations

import zlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.budget import link_budget
from inchmark.core.path_view import PathView, path_view
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
from inchmark.plan.models import Site, SitePoint, Stop, Terrain
from inchmark.plan.records.places import FixedEnd, Target, targets_from
from inchmark.shelf.models import Antenna, Rig
from inchmark.shelf.records.ends import carried_end, fixed_end, sensitivity_of
from inchmark.studies.models import Study

COVER_HEIGHTS_M = {"open": 0.0, "reeds": 2.0, "trees": 12.0, "houses": 8.0}  # common practice


def grid_of(terrain: Terrain) -> TerrainGrid:
    """Return a kept terrain as the core knows it."""
    shape = terrain.rows, terrain.columns
    heights = np.frombuffer(zlib.decompress(bytes(terrain.heights)), dtype="<f4")
    cover = None
    if terrain.cover is not None:
        cover = np.frombuffer(zlib.decompress(bytes(terrain.cover)), dtype=np.uint8)
    return TerrainGrid(
        north_deg=terrain.north_deg,
        west_deg=terrain.west_deg,
        lat_step_deg=terrain.lat_step_deg,
        lon_step_deg=terrain.lon_step_deg,
        heights_m=heights.reshape(shape),
        cover_m=None if cover is None else cover.reshape(shape).astype(np.float32),
    )


def grid_for(study: Study) -> TerrainGrid | None:
    """Return a study's terrain, None without any."""
    terrain = Terrain.objects.filter(study=study).first()
    return grid_of(terrain) if terrain else None


def surroundings_of(site: Site | None) -> Surroundings:
    """Return how a site is predicted."""
    if site is None:
        return Surroundings()
    return Surroundings(
        model=site.model,
        openness=site.openness,
        ground=site.ground,
        polarisation=site.polarisation,
        building=site.building,
        shadowing_db=site.shadowing_db,
    )


Profile = tuple[np.ndarray, np.ndarray]


def profiles_of(
    targets: Sequence[Target], fixed: FixedEnd, grid: TerrainGrid | None
) -> list[Profile | None]:
    """Return distances [m] and heights with cover [m] along each path, None where not known.

    A typed profile goes before the terrain.
    """
    found: list[Profile | None] = [_typed(one) if one.profile else None for one in targets]
    rows = [
        i for i, one in enumerate(targets)
        if not one.profile and one.lat is not None and one.lon is not None
    ]  # fmt: skip
    if grid is None or fixed.place is None or not rows:
        return found
    lats, lons = [targets[i].lat for i in rows], [targets[i].lon for i in rows]
    for i, profile in zip(rows, grid.profiles(fixed.place, lats, lons), strict=True):
        found[i] = profile
    return found


def _typed(one: Target) -> Profile:
    d, h, covers = zip(*one.profile, strict=True)
    ground = np.array(h, dtype=float)
    cover = np.array([COVER_HEIGHTS_M[str(name)] for name in covers])
    cover[[0, -1]] = 0.0  # the antennas stand on the ground
    return np.array(d, dtype=float), ground + cover


def heights_of(rig: Rig, fixed: FixedEnd, target: Target) -> tuple[float, float]:
    """Return the antennas' heights at the fixed end and at a target [m]; a place's own go first."""
    return fixed.antenna_m(rig), target.antenna_m(rig)


def view_of(
    profile: Profile, rig: Rig, heights_m: tuple[float, float], site: Site | None
) -> PathView:
    """Return a path from the side at a rig's frequency."""
    return path_view(
        *profile,
        height1_m=heights_m[0],
        height2_m=heights_m[1],
        frequency_hz=rig.frequency_hz,
        polarisation=site.polarisation if site else "vertical",
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """A rig at a stop or needed place, heard by one fixed end."""

    rig: Rig
    path: PathPrediction
    stop: StopPrediction
    by: FixedEnd


@dataclass(frozen=True, slots=True, kw_only=True)
class StopCells:
    """A stop or needed place with what each rig should do there."""

    stop: Target
    cells: list[Cell]

    @property
    def warnings(self) -> list[str]:
        """Return where the models do not hold, each said once."""
        return list(dict.fromkeys(w for cell in self.cells for w in cell.path.warnings))


def predictions(
    targets: Sequence[Target], rigs: Sequence[Rig], site: Site | None, grid: TerrainGrid | None,
    fixed: FixedEnd,
) -> list[StopCells]:  # fmt: skip
    """Return every rig at every target, heard by one fixed end."""
    if not targets:
        return []
    around = surroundings_of(site)
    over = around.model == "terrain"
    profiles = profiles_of(targets, fixed, grid) if over else [None] * len(targets)
    columns = list(_columns(targets, rigs, around, profiles, fixed))
    return [
        StopCells(stop=target, cells=[column[i] for column in columns])
        for i, target in enumerate(targets)
    ]


def best_predictions(
    ones: Sequence[Stop | SitePoint], rigs: Sequence[Rig], site: Site | None,
    grid: TerrainGrid | None, ends: Sequence[FixedEnd],
) -> list[StopCells]:  # fmt: skip
    """Return every rig at every place, heard by the fixed end that should hear most of it."""
    found: dict[tuple[bool, int], StopCells] = {}
    for end in ends:
        for row in predictions(targets_from(ones, end), rigs, site, grid, end):
            key = row.stop.needed, row.stop.pk
            found[key] = _better(found[key], row) if key in found else row
    keys = [(isinstance(one, SitePoint), one.pk) for one in ones]
    return [found[key] for key in keys if key in found]


def _better(one: StopCells, other: StopCells) -> StopCells:
    pairs = zip(one.cells, other.cells, strict=True)
    cells = [a if a.stop.expected_share >= b.stop.expected_share else b for a, b in pairs]
    return StopCells(stop=one.stop, cells=cells)


def _columns(
    targets: Sequence[Target], rigs: Sequence[Rig], around: Surroundings,
    profiles: Sequence[Profile | None], fixed: FixedEnd,
) -> Iterator[list[Cell]]:  # fmt: skip
    """Yield a rig's cells at all targets; rigs alike in heights and frequency share their paths."""
    known: dict[object, PathPredictions] = {}
    for rig in rigs:
        key = rig.fixed_height_m, rig.height_m, rig.frequency_hz, is_magnetic(rig)
        if key not in known:
            known[key] = predict_paths(_paths(targets, rig, around, profiles, fixed), around)
        lossless, threshold = levels_of(rig)
        stops = predict_stops(
            lossless, threshold, known[key].loss_db, shadowing_db=around.shadowing_db
        )
        yield [
            Cell(rig=rig, path=known[key].at(i), stop=stop, by=fixed)
            for i, stop in enumerate(stops)
        ]


def levels_of(rig: Rig) -> tuple[float, float]:
    """Return the level with no path between, and that at which half is lost [dBm]."""
    lossless = link_budget(carried_end(rig), fixed_end(rig), path_loss_db=0.0, path_source="")
    return lossless.arriving_dbm, sensitivity_of(rig).dbm


def is_magnetic(rig: Rig) -> bool:
    """Tell whether both antennas of a rig are loops or rods."""
    ends = rig.antenna_part, rig.fixed_antenna_part
    return all(end is not None and end.type == Antenna.MAGNETIC for end in ends)


def loss_between(rig: Rig, site: Site | None, metres: float) -> PathPrediction:
    """Return what a path to no particular place loses, by the site's way of predicting them."""
    around = surroundings_of(site)
    if around.model == "terrain":  # it has no one loss at a distance
        around = replace(around, model="two_ray")
    paths = Paths(
        distance_m=np.array([metres]), height1_m=np.asarray(rig.fixed_height_m),
        height2_m=np.asarray(rig.height_m), frequency_hz=rig.frequency_hz,
        magnetic=is_magnetic(rig),
    )  # fmt: skip
    return predict_paths(paths, around).at(0)


def _paths(
    targets: Sequence[Target], rig: Rig, around: Surroundings,
    profiles: Sequence[Profile | None], fixed: FixedEnd,
) -> Paths:  # fmt: skip
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
    profiles: Sequence[Profile | None], heights: np.ndarray, frequency_hz: float,
    polarisation: str,
) -> np.ndarray:  # fmt: skip
    """Return what terrain costs on each path [dB], NaN without a profile; like lengths together."""
    found = np.full(len(profiles), np.nan)
    by_length: dict[int, list[int]] = {}
    for i, profile in enumerate(profiles):
        if profile is not None:
            by_length.setdefault(len(profile[0]), []).append(i)
    for rows in by_length.values():
        both = [profiles[i] for i in rows]
        found[rows] = delta_bullington(
            np.array([one[0] for one in both if one]), np.array([one[1] for one in both if one]),
            height1_m=heights[rows, 0], height2_m=heights[rows, 1], frequency_hz=frequency_hz,
            polarisation=polarisation,
        ).loss_db  # fmt: skip
    return found
