"""Paths to the stops: side views, and what each rig should do there before anyone walks."""

from __future__ import annotations

import zlib
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.budget import link_budget
from inchmark.core.geodesy import Place
from inchmark.core.path_view import PathView, path_view
from inchmark.core.prediction import (
    Path,
    PathPrediction,
    StopPrediction,
    Surroundings,
    predict_path,
    predict_stop,
)
from inchmark.core.terrain import TerrainGrid
from inchmark.plan.models import Site, Stop, Terrain
from inchmark.shelf.models import Rig
from inchmark.shelf.records.ends import carried_end, fixed_end, sensitivity_of

COVER_HEIGHTS_M = {"open": 0.0, "reeds": 2.0, "trees": 12.0, "houses": 8.0}  # common practice
LEAST_HEIGHT_M = 0.1


def grid_of(terrain: Terrain) -> TerrainGrid:
    """Return a kept terrain as the core knows it."""
    heights = np.frombuffer(zlib.decompress(bytes(terrain.heights)), dtype="<f4")
    return TerrainGrid(
        north_deg=terrain.north_deg,
        west_deg=terrain.west_deg,
        lat_step_deg=terrain.lat_step_deg,
        lon_step_deg=terrain.lon_step_deg,
        heights_m=heights.reshape(terrain.rows, terrain.columns),
    )


def surroundings_of(site: Site | None) -> Surroundings:
    """Return how a site is predicted."""
    if site is None:
        return Surroundings()
    return Surroundings(
        model=site.model,
        openness=site.openness,
        ground=site.ground,
        polarisation=site.polarisation,
        shadowing_db=site.shadowing_db,
    )


Profile = tuple[np.ndarray, np.ndarray]


def profile_of(stop: Stop, site: Site | None, grid: TerrainGrid | None) -> Profile | None:
    """Return distances [m] and heights with cover [m] along the path to a stop; None if unknown.

    A typed profile goes before the terrain.
    """
    if stop.profile:
        d, h, covers = zip(*stop.profile, strict=True)
        ground = np.array(h, dtype=float)
        cover = np.array([COVER_HEIGHTS_M[name] for name in covers])
        cover[[0, -1]] = 0.0  # the antennas stand on the ground
        return np.array(d, dtype=float), ground + cover
    if grid is None or site is None or None in (site.lat, site.lon, stop.lat, stop.lon):
        return None
    start = Place(lat_deg=float(site.lat or 0), lon_deg=float(site.lon or 0))
    try:
        return grid.profile(
            start, Place(lat_deg=float(stop.lat or 0), lon_deg=float(stop.lon or 0))
        )
    except ValueError:
        return None


def view_of(profile: Profile, rig: Rig, site: Site | None) -> PathView:
    """Return a path from the side with a rig's heights and frequency."""
    return path_view(
        *profile,
        height1_m=max(rig.fixed_height_m, LEAST_HEIGHT_M),
        height2_m=max(rig.height_m, LEAST_HEIGHT_M),
        frequency_hz=rig.frequency_hz,
        polarisation=site.polarisation if site else "vertical",
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Cell:
    """A rig at a stop."""

    rig: Rig
    path: PathPrediction
    stop: StopPrediction


@dataclass(frozen=True, slots=True, kw_only=True)
class StopCells:
    """A stop with what each rig should do there."""

    stop: Stop
    cells: list[Cell]
    has_profile: bool

    @property
    def warnings(self) -> list[str]:
        """Return where the models do not hold, each said once."""
        return list(dict.fromkeys(w for cell in self.cells for w in cell.path.warnings))


def predictions(
    stops: Sequence[Stop], rigs: Sequence[Rig], site: Site | None, grid: TerrainGrid | None
) -> list[StopCells]:
    """Return every rig at every stop."""
    around = surroundings_of(site)
    levels = [(rig, *_levels(rig)) for rig in rigs]
    found = []
    for stop in stops:
        profile = profile_of(stop, site, grid)
        over = profile if around.model == "terrain" else None
        paths = _paths(stop, [rig for rig, _, _ in levels], site, over)
        cells = [
            Cell(rig=rig, path=paths[_heights(rig)],
                 stop=predict_stop(lossless, threshold, paths[_heights(rig)]))
            for rig, lossless, threshold in levels
        ]  # fmt: skip
        found.append(StopCells(stop=stop, cells=cells, has_profile=profile is not None))
    return found


def _levels(rig: Rig) -> tuple[float, float]:
    """Return the level with no path between, and that at which half is lost [dBm]."""
    lossless = link_budget(carried_end(rig), fixed_end(rig), path_loss_db=0.0, path_source="")
    return lossless.arriving_dbm, sensitivity_of(rig).dbm


def _heights(rig: Rig) -> tuple[float, float, float]:
    """Return what makes a path of its own: rigs alike in it share one."""
    return rig.fixed_height_m, rig.height_m, rig.frequency_hz


def _paths(
    stop: Stop, rigs: Sequence[Rig], site: Site | None, profile: Profile | None
) -> dict[tuple[float, float, float], PathPrediction]:
    around, found = surroundings_of(site), {}
    for rig in rigs:
        if _heights(rig) in found:
            continue
        path = Path(
            distance_m=stop.distance_m,
            height1_m=rig.fixed_height_m,
            height2_m=rig.height_m,
            frequency_hz=rig.frequency_hz,
            cover=stop.cover,
            cover_m=stop.cover_m,
            view=view_of(profile, rig, site) if profile else None,
        )
        found[_heights(rig)] = predict_path(path, around)
    return found


WIDTH, HEIGHT = 900.0, 260.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PathDrawing:
    """A path laid out for drawing, with its axis marks."""

    view: PathView
    ground: str
    line: str
    zone: str
    ends: tuple[tuple[float, float, float], tuple[float, float, float]]  # x, ground y, antenna y
    worst_x: float
    worst_y: float
    break_x: float | None
    obstacles: list[tuple[float, float, str]]
    heights: list[tuple[float, str]]
    distances: list[tuple[float, str]]


def drawing_of(view: PathView) -> PathDrawing:
    """Return a path view laid out."""
    d = view.distance_m
    low = min(float(view.ground_m.min()), float((view.line_m - view.zone_m).min()))
    high = max(float(view.ground_m.max()), float((view.line_m + view.zone_m).max()))
    room = max(0.1 * (high - low), 1.0)
    low, high = low - room, high + room

    def x(metres: float) -> float:
        return round(WIDTH * metres / float(d[-1]), 1)

    def y(metres: float) -> float:
        return round(HEIGHT * (1 - (metres - low) / (high - low)), 1)

    def path(heights: np.ndarray, order: int = 1) -> str:
        pairs = zip(d[::order], heights[::order], strict=True)
        return "L".join(f"{x(float(a))} {y(float(b))}" for a, b in pairs)

    above, below = path(view.line_m + view.zone_m), path(view.line_m - view.zone_m, -1)
    at = view.worst
    step = _nice((high - low) / 4)
    marks = np.arange(np.ceil(low / step) * step, high, step)
    across = _nice(float(d[-1]) / 5)
    return PathDrawing(
        view=view,
        ground=f"M0 {HEIGHT}L{path(view.ground_m)}L{WIDTH} {HEIGHT}Z",
        line=f"M{path(view.line_m)}",
        zone=f"M{above}L{below}Z",
        ends=tuple(
            (x(float(d[i])), y(float(view.ground_m[i])), y(float(view.line_m[i]))) for i in (0, -1)
        ),  # type: ignore[arg-type]
        worst_x=x(float(d[at])),
        worst_y=y(float(view.ground_m[at])),
        break_x=x(view.break_m) if view.break_m < d[-1] else None,
        obstacles=[
            (x(one.distance_m), y(float(np.interp(one.distance_m, d, view.ground_m))),
             f"{one.loss_db:.1f} dB")
            for one in view.obstacles
        ],
        heights=[(y(float(m)), f"{m:g}") for m in marks],
        distances=[(x(float(m)), f"{m:g}") for m in np.arange(0, float(d[-1]) + 1e-6, across)],
    )  # fmt: skip


def _nice(step: float) -> float:
    """Return 1, 2 or 5 times a power of ten near a step."""
    size = 10 ** np.floor(np.log10(max(step, 1e-6)))
    return float(size * min((1, 2, 5, 10), key=lambda n: abs(n - step / size)))
