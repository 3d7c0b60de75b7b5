"""Which path laws a walk is read with: one slope, and others where heights make them likely.

Where the ground's reflection begins to cancel near what was walked or is needed, the loss over flat
ground (two rays, averaged in power over ten per cent of distance) and two slopes are fitted too.
Ranges are mixed over the laws by how likely each is; everything else is said by the likeliest. The
plan may say that paths run over open ground. Where terrain is known, the loss over it (with the ground
in it already) takes the place of the ground's. Where walls are drawn, every law has them added, and
one slope alone stays for walls that the walk does not show.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from inchmark.core.link_model.fit import Fit
from inchmark.core.link_model.hypers import NoFitError
from inchmark.core.link_model.law import (
    ONE_SLOPE,
    PathLaw,
    beside_walls,
    over_ground,
    over_terrain,
    two_slopes,
)
from inchmark.core.link_model.priors import Structure
from inchmark.core.propagation.two_ray import GROUNDS, smoothed_two_ray_loss_db
from inchmark.core.reading.measured import SiteFacts

# before the walk: one slope, the ground, two slopes; and where the plan says the ground is open
PRIOR, PRIOR_OPEN = (0.8, 0.1, 0.1), (0.15, 0.7, 0.15)
PRIOR_TERRAIN = (0.35, 0.55, 0.1)
WALLS_SHARE = 0.7  # of the belief that drawn walls are what a walk shows
Fitter = Callable[[PathLaw, Structure | None], Fit]


@dataclass(frozen=True, slots=True, kw_only=True)
class LawFit:
    """Fits under the laws, the likeliest first, with how likely each is."""

    fits: tuple[Fit, ...]
    weights: tuple[float, ...]


def break_matters(site: SiteFacts, distances_m: list[float]) -> bool:
    """Tell whether the break lies within, or a factor of two beyond, what was walked or is needed."""
    at = site.break_m
    if at is None or not distances_m:
        return False
    farthest = max(distances_m[-1], site.needed_m or 0.0)
    return distances_m[0] / 2 < at < 2 * farthest


def fitted_law(fit: Fitter, site: SiteFacts, distances_m: list[float]) -> LawFit:
    """Return the fits under the laws that could matter."""
    first = fit(ONE_SLOPE, None)
    slope_share, others = _with_walls(site, *_candidates(site, distances_m))
    if not others or first.posterior.data.data_level_dbm is None:
        return LawFit(fits=(first,), weights=(1.0,))
    alone = fit(ONE_SLOPE, first.structure).log_evidence  # compared under the same structure
    found = [(first, np.log(slope_share))]
    for share, law in others:
        try:
            other = fit(law, first.structure)
        except NoFitError:
            continue
        found.append((other, np.log(share) + other.log_evidence - alone))
    found.sort(key=lambda pair: -pair[1])
    weight = np.exp(np.array([score for _, score in found]) - found[0][1])
    weight /= weight.sum()
    return LawFit(fits=tuple(one for one, _ in found), weights=tuple(weight.tolist()))


def _candidates(
    site: SiteFacts, distances_m: list[float]
) -> tuple[float, list[tuple[float, PathLaw]]]:
    """Return how likely one slope is before the walk, and the other laws with how likely they are."""
    bends = break_matters(site, distances_m)
    if site.terrain is not None:
        alone, terrain, two = PRIOR_TERRAIN
        known = over_terrain(
            np.array(site.terrain.distance_m),
            np.array(site.terrain.loss_db),
            site.terrain.at_stops,
            site.break_m,
        )
        more = [(two, two_slopes(site.break_m or 1.0))] if bends else []
        return alone, [(terrain, known), *more]
    if not bends:
        return 1.0, []
    alone, ground, two = PRIOR_OPEN if site.open_ground else PRIOR
    return alone, [(ground, ground_law(site)), (two, two_slopes(site.break_m or 1.0))]


def _with_walls(
    site: SiteFacts, slope_share: float, others: list[tuple[float, PathLaw]]
) -> tuple[float, list[tuple[float, PathLaw]]]:
    """Return the laws with drawn walls added, and one slope without them; as they are without any."""
    known = site.walls
    if known is None:
        return slope_share, others
    drawn = known.distance_m, known.loss_db, known.ways, known.by_rig
    walled = [
        (WALLS_SHARE * share, beside_walls(law, *drawn))
        for share, law in ((slope_share, ONE_SLOPE), *others)
    ]
    return 1 - WALLS_SHARE, walled


def ground_law(site: SiteFacts) -> PathLaw:
    """Return the law over flat ground between the site's heights, smoothed over its ripples."""
    d = np.geomspace(1.0, 1e5, 500)
    mean = smoothed_two_ray_loss_db(
        site.fixed_height_m or 1.0,
        site.carried_height_m or 1.0,
        d,
        site.frequency_hz or 1e9,
        ground=GROUNDS[site.ground],
    )
    return over_ground(d, mean, site.break_m)
