"""The loss over known terrain as a reading takes it: to each stop, and along the walked bearings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.geodesy import Place, destination, geodesic
from inchmark.core.propagation.diffraction import delta_bullington
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.reading.measured import SiteFacts, TerrainFacts
from inchmark.core.terrain import TerrainGrid
from inchmark.plan.adapters.paths import Profile, profiles_of
from inchmark.plan.adapters.places import FixedEnd, Target, fixed_ends, place_of, targets_from
from inchmark.plan.models import Site, SitePoint, Stop

BEARINGS, POINTS = 8, 24  # radials looked along, distances on each
NEARER, FARTHER = 0.4, 2.0  # of the nearest and the farthest stop
BEYOND_DB = 40.0  # a factor ten beyond the terrain, as over flat ground beyond the break


def terrain_facts(
    site: Site | None, stops: Sequence[Stop], grid: TerrainGrid | None, facts: SiteFacts
) -> TerrainFacts | None:
    """Return the loss over terrain, None where it is not known to every stop.

    Frequency and heights must be one for all rigs.
    """
    if not stops or None in (facts.frequency_hz, facts.fixed_height_m, facts.carried_height_m):
        return None
    end = fixed_ends(site, [])[0]
    losses = losses_to(end, stops, grid, facts)
    if len(losses) < len(stops) or end.place is None or grid is None:
        return None
    targets = targets_from(stops, end)
    distances, curve = _curve(end.place, targets, grid, facts)
    if len(distances) < POINTS // 2:
        return None
    return TerrainFacts(
        at_stops=losses,
        distance_m=(*distances.tolist(), 10 * float(distances[-1])),
        loss_db=(*curve.tolist(), float(curve[-1]) + BEYOND_DB),
    )


def losses_to(
    end: FixedEnd, stops: Sequence[Stop], grid: TerrainGrid | None, facts: SiteFacts
) -> dict[str, float]:
    """Return the loss over terrain to stops by their label [dB]; those without a profile are left out."""
    targets = targets_from(stops, end)
    known = [
        (one.label, profile)
        for one, profile in zip(targets, profiles_of(targets, end, grid), strict=True)
        if profile is not None
    ]
    losses = _losses([profile for _, profile in known], facts)
    return {label: float(loss) for (label, _), loss in zip(known, losses, strict=True)}


def losses_to_places(
    end: FixedEnd, places: Sequence[SitePoint], grid: TerrainGrid | None, facts: SiteFacts
) -> dict[int, float]:
    """Return the loss over terrain to needed places by their number [dB], each at its own height."""
    if None in (facts.frequency_hz, facts.fixed_height_m, facts.carried_height_m):
        return {}
    targets = targets_from(places, end)
    found = {}
    for one, profile in zip(targets, profiles_of(targets, end, grid), strict=True):
        if profile is not None:
            own = facts if one.height_m is None else replace(facts, carried_height_m=one.height_m)
            found[one.pk] = float(_losses([profile], own)[0])
    return found


def _curve(
    fixed: Place, targets: Sequence[Target], grid: TerrainGrid, facts: SiteFacts
) -> tuple[Floats, Floats]:
    """Return distances [m] and the loss there, over the bearings of the stops on average [dB]."""
    metres = [one.distance_m for one in targets]
    wanted = np.geomspace(NEARER * min(metres), FARTHER * max(metres), POINTS)
    places = [place for one in targets if (place := place_of(one)) is not None]
    azimuths = sorted({round(geodesic(fixed, place).azimuth_deg) for place in places})
    chosen = np.linspace(0, len(azimuths) - 1, min(BEARINGS, len(azimuths))).round().astype(int)
    sums, counts = np.zeros(POINTS), np.zeros(POINTS)
    for azimuth in np.array(azimuths)[chosen].tolist():
        ends = [destination(fixed, azimuth, float(d)) for d in wanted]
        found = grid.profiles(fixed, [one.lat_deg for one in ends], [one.lon_deg for one in ends])
        known = [i for i, profile in enumerate(found) if profile is not None]
        if known:
            sums[known] += _losses([profile for profile in found if profile is not None], facts)
            counts[known] += 1
    covered = counts > 0
    return wanted[covered], _smoothed(sums[covered] / counts[covered])


def _smoothed(curve: Floats) -> Floats:
    """Return a curve with each point half of its neighbours: a place is not a point."""
    padded = np.concatenate([curve[:1], curve, curve[-1:]])
    found: Floats = (padded[:-2] + 2 * curve + padded[2:]) / 4
    return found


def _losses(profiles: Sequence[Profile], facts: SiteFacts) -> Floats:
    heights = np.full(len(profiles), facts.carried_height_m)
    return losses_over(profiles, facts.fixed_height_m or 0.0, heights, facts.frequency_hz or 1e9)


def losses_over(
    profiles: Sequence[Profile], fixed_m: float, heights_m: Floats, frequency_hz: float
) -> Floats:
    """Return free space and delta-Bullington over profiles [dB]; those of one length together.

    Antenna heights above the ground, of the common end and of each other end [m].
    """
    found = np.zeros(len(profiles))
    lengths = np.array([len(d) for d, _ in profiles])
    for length in np.unique(lengths):
        rows = np.flatnonzero(lengths == length).tolist()
        d = np.array([profiles[i][0] for i in rows])
        diffracted = delta_bullington(
            d,
            np.array([profiles[i][1] for i in rows]),
            height1_m=np.full(len(rows), fixed_m),
            height2_m=heights_m[rows],
            frequency_hz=frequency_hz,
        )
        found[rows] = free_space_loss_db(d[:, -1], frequency_hz) + diffracted.loss_db
    return found
