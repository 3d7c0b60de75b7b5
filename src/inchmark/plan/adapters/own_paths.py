"""What a place's own cover, floors and height cost a rig, as a reading takes them beside its curve."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.prediction import LEAST_HEIGHT_M, Paths, covers_db
from inchmark.core.propagation.cover import indoor_figures
from inchmark.core.propagation.two_ray import GROUNDS, smoothed_two_ray_loss_db
from inchmark.core.terrain import TerrainGrid
from inchmark.plan.adapters.paths import profiles_of
from inchmark.plan.adapters.places import FixedEnd, Target
from inchmark.plan.adapters.terrain_law import losses_over
from inchmark.plan.models import Site
from inchmark.shelf.models import Rig

ByRig = dict[str, float]
OTHER_HEIGHT = 1.5  # times the height walked with, or a share of it: another height
INDOOR = "indoor"


def cover_of(target: Target, site: Site | None) -> str:
    """Return what covers a place as it is compared, with floors where they count."""
    floors = target.floors if site is not None and site.model == INDOOR else 0
    return f"{target.cover} {floors} floors".strip() if floors else target.cover


def cover_costs_db(
    targets: Sequence[Target], rigs: Sequence[Rig], site: Site | None
) -> list[ByRig]:
    """Return what covers and floors cost at each place, by rig [dB]; empty where nothing does."""
    found: list[ByRig] = [{} for _ in targets]
    which = [i for i, one in enumerate(targets) if cover_of(one, site)]
    if not which:
        return found
    for rig in rigs:
        costs = _costs([targets[i] for i in which], rig, site)
        for i, cost in zip(which, costs.tolist(), strict=True):
            found[i][rig.letter] = cost
    return found


def _costs(targets: Sequence[Target], rig: Rig, site: Site | None) -> Floats:
    paths = Paths(
        distance_m=np.array([one.distance_m for one in targets]),
        height1_m=np.full(len(targets), max(rig.fixed_height_m, LEAST_HEIGHT_M)),
        height2_m=np.array([one.antenna_m(rig) for one in targets]),
        frequency_hz=rig.frequency_hz,
    )
    depth = np.array([one.cover_m for one in targets])
    found = covers_db([one.cover for one in targets], depth, paths)
    if site is not None and site.model == INDOOR:
        floors = np.array([float(one.floors) for one in targets])
        found = found + indoor_figures(site.building, floors, rig.frequency_hz)[1]
    return found


def height_costs_db(
    targets: Sequence[Target],
    rigs: Sequence[Rig],
    end: FixedEnd,
    grid: TerrainGrid | None,
    site: Site | None,
) -> list[ByRig]:
    """Return what a place's own height costs against that carried, by rig [dB]; negative where it gains.

    Over terrain where its profile is known, else over flat ground (two rays, averaged over ten per
    cent of distance). Empty where a place has no height of its own.
    """
    found: list[ByRig] = [{} for _ in targets]
    which = [i for i, one in enumerate(targets) if one.height_m is not None]
    if not which:
        return found
    chosen = [targets[i] for i in which]
    profiles = profiles_of(chosen, end, grid)
    for rig in rigs:
        walked = [replace(one, height_m=None) for one in chosen]
        more = _height_costs(chosen, walked, profiles, rig, end, site)
        for i, cost in zip(which, more.tolist(), strict=True):
            found[i][rig.letter] = cost
    return found


def _height_costs(
    own: Sequence[Target],
    walked: Sequence[Target],
    profiles: Sequence[tuple[np.ndarray, np.ndarray] | None],
    rig: Rig,
    end: FixedEnd,
    site: Site | None,
) -> Floats:
    ground = GROUNDS[site.ground if site else "ground"]
    metres = np.array([one.distance_m for one in own])
    mast = end.antenna_m(rig)
    sides = []
    for ones in (own, walked):
        heights = np.array([one.antenna_m(rig) for one in ones])
        flat = smoothed_two_ray_loss_db(mast, heights, metres, rig.frequency_hz, ground=ground)
        for i, profile in enumerate(profiles):
            if profile is not None:
                flat[i] = losses_over([profile], mast, heights[i : i + 1], rig.frequency_hz)[0]
        sides.append(flat)
    found: Floats = sides[0] - sides[1]
    return found


def unlike_of(target: Target, rigs: Sequence[Rig]) -> tuple[str, ...]:
    """Return in what a place is unlike what was walked, beside cover and distance."""
    if target.height_m is None or not rigs:
        return ()
    ratio = max(target.height_m, LEAST_HEIGHT_M) / max(rigs[0].height_m, LEAST_HEIGHT_M)
    other = max(ratio, 1 / ratio) > OTHER_HEIGHT
    return ("at another height than was walked",) if other else ()
