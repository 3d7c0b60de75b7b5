"""Paths from fixed ends to stops and needed places: profiles, heights, levels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from inchmark.core.alike import alike
from inchmark.core.link import Link
from inchmark.core.path_view import PathView, fine_profile, path_view
from inchmark.core.prediction import EXPONENTS, LEAST_HEIGHT_M, Surroundings
from inchmark.core.propagation.kept import KeptLaw
from inchmark.core.terrain import TerrainGrid
from inchmark.plan.adapters.places import FixedEnd, Target, place_of
from inchmark.plan.adapters.terrain import COVER_HEIGHTS_M
from inchmark.plan.adapters.walls import walls_of
from inchmark.plan.models import Site
from inchmark.shelf.adapters.ends import sensitivity_of
from inchmark.shelf.adapters.rigs import reference_dbm
from inchmark.shelf.models import Antenna, Rig

INDOOR_WORDS = dict(Site.BUILDINGS)


def surroundings_of(site: Site | None) -> Surroundings:
    """Return how a site is predicted."""
    if site is None:
        return Surroundings()
    kept = _kept_law(site) if site.model == "kept" else None
    found = alike(Surroundings, site, walked=None, kept=kept, walls=walls_of(site))
    return replace(found, shadowing_db=kept.shadowing_db) if kept else found


def _kept_law(site: Site) -> KeptLaw | None:
    return alike(KeptLaw, site.surrounding) if site.surrounding else None


def law_words(around: Surroundings) -> str:
    """Return by which law paths are predicted, for the words “by …”."""
    walls = around.walls
    law = {
        "log_distance": f"an exponent of {EXPONENTS[around.openness]:g} from 1 m on",
        "free_space": "free space",
        "two_ray": f"two rays over flat {around.ground}",
        "terrain": "free space and delta-Bullington over the terrain",
        "indoor": "free space" if walls else f"P.1238 inside {INDOOR_WORDS[around.building]}",
        "kept": f"what was walked in {around.kept.name}" if around.kept else "",
    }[around.model]
    count = len(walls.walls) if walls else 0
    return f"{law} and {count} wall{'' if count == 1 else 's'} drawn" if count else law


Profile = tuple[np.ndarray, np.ndarray]


def profiles_of(
    targets: Sequence[Target], fixed: FixedEnd, grid: TerrainGrid | None
) -> list[Profile | None]:
    """Return distances [m] and heights with cover [m] along each path, None where not known.

    A typed profile goes before the terrain.
    """
    found: list[Profile | None] = [_typed(one) if one.profile else None for one in targets]
    placed = [
        (i, place)
        for i, one in enumerate(targets)
        if not one.profile and (place := place_of(one)) is not None
    ]
    if grid is None or fixed.place is None or not placed:
        return found
    lats, lons = zip(*((place.lat_deg, place.lon_deg) for _, place in placed), strict=True)
    for (i, _), profile in zip(placed, grid.profiles(fixed.place, lats, lons), strict=True):
        found[i] = profile
    return found


def _typed(target: Target) -> Profile:
    d, h, covers = zip(*target.profile, strict=True)
    ground = np.array(h, dtype=float)
    cover = np.array([COVER_HEIGHTS_M[str(name)] for name in covers])
    cover[[0, -1]] = 0.0  # the antennas stand on the ground
    return fine_profile(np.array(d, dtype=float), ground, cover)


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


def link_of(rig: Rig, fixed: FixedEnd | None = None) -> Link:
    """Return a rig's link to a fixed end; as the rig has it without one."""
    return Link(
        reference_dbm=reference_dbm(rig),
        threshold_dbm=sensitivity_of(rig).threshold_dbm,
        height1_m=fixed.antenna_m(rig) if fixed else rig.fixed_height_m,
        height2_m=max(rig.height_m, LEAST_HEIGHT_M) if fixed else rig.height_m,
        frequency_hz=rig.frequency_hz,
        magnetic=is_magnetic(rig),
    )


def is_magnetic(rig: Rig) -> bool:
    """Tell whether both antennas of a rig are loops or rods."""
    ends = rig.antenna_part, rig.fixed_antenna_part
    return all(end is not None and end.type == Antenna.MAGNETIC for end in ends)
