"""What a place's own way loses beyond what the walk's curve says at its distance, and what makes it unlike.

Its own profile over terrain, the walls on its way, what covers it and its own height, each against what
the stops had. What no walk measured (cover, height) carries a factor of its own in every draw, so that
limits grow with it.
"""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.geodesy import Place, geodesic
from inchmark.core.link_model.data import LinkKey
from inchmark.core.link_model.law import TERRAIN, on_way
from inchmark.core.link_model.posterior import Posterior
from inchmark.core.reading.analysis import SEED, Analysis
from inchmark.core.reading.expected import NeededPlace
from inchmark.core.reading.measured import StopFacts

BESIDE = 1.05  # times the farthest stop, or a share of the nearest: still as far as walked
TURNED_DEG = 45.0  # from every bearing walked: a direction the walk did not see
SAME_PLACE_M, SAME_PLACE_SHARE = (
    10.0,
    0.1,
)  # a place so near a stop, or in so much of its way, is it
SAME_DB = 1.0  # more between their walls, or by its own height, and it is not
# medians of published models of cover and height are off by that much; common practice
MODEL_SD = 0.4


def own_way_db(
    analysis: Analysis, p: Posterior, link: LinkKey, metres: float, place: NeededPlace
) -> Floats:
    """Return what a place's own way loses beyond the curve of the walk (D,) [dB]."""
    found = np.full(len(p.slopes), _terrain_db(p, metres, place))
    found += _walls_db(p, link, metres, place)
    unlike = _cover_db(analysis, link, place)
    if p.data.law.kind != TERRAIN or place.path_db is None:  # else its profile is at its height
        unlike += place.height_db.get(link.rig, 0.0)
    if unlike:
        factor = np.random.default_rng(SEED + 1).normal(1, MODEL_SD, len(p.slopes))
        found += np.maximum(factor, 0.0) * unlike
    return found


def _terrain_db(p: Posterior, metres: float, place: NeededPlace) -> float:
    """Return what its own profile costs beyond the curve [dB]; heard by the fixed end."""
    if place.path_db is None or metres != place.distance_m:
        return 0.0
    return p.data.law.own_path_db(place.path_db, metres, p.data.centre_m)


def _walls_db(p: Posterior, link: LinkKey, metres: float, place: NeededPlace) -> Floats | float:
    """Return what walls on its own way cost beyond those along the walk's bearings (D,) [dB]."""
    own = on_way(place.walls_db, link.rig, link.receiver)
    if p.wall_factor is None or own is None:
        return 0.0
    more: Floats = p.wall_factor * (own - p.data.law.walls_along_db(np.array(metres)))
    return more


def _cover_db(analysis: Analysis, link: LinkKey, place: NeededPlace) -> float:
    """Return what covers a place beyond what covered the stops walked to, on average [dB]."""
    walked = {analysis.visits[i].key.stop for i in analysis.indices_of(link)}
    covers = [analysis.stops.get(one, StopFacts()).cover_db for one in walked]
    usual = float(np.mean([_of(one, link) for one in covers])) if covers else 0.0
    return _of(place.cover_db, link) - usual


def _of(costs: Mapping[str, float], link: LinkKey) -> float:
    return costs.get(link.rig, 0.0)


def visit_at(analysis: Analysis, link: LinkKey, place: NeededPlace) -> int | None:
    """Return the visit of a link at the stop a place is, that with the most frames."""
    if place.spot is None:
        return None  # a distance is no place: frames of one stop do not stand for all around it
    here = Place(lat_deg=place.spot[0], lon_deg=place.spot[1])
    found = []
    for i in analysis.indices_of(link):
        visit = analysis.visits[i]
        spot = getattr(analysis.stops.get(visit.key.stop), "spot", None)
        usual = visit.key.condition in ("", *analysis.conditions[:1])
        if spot is not None and usual:
            stop = Place(lat_deg=spot[0], lon_deg=spot[1])
            near_m = min(SAME_PLACE_M, SAME_PLACE_SHARE * visit.distance_m)
            if geodesic(here, stop).distance_m <= near_m and _alike(analysis, link, place, i):
                found.append(i)
    return max(found, key=lambda i: analysis.used[i].sent, default=None)


def _alike(analysis: Analysis, link: LinkKey, place: NeededPlace, visit: int) -> bool:
    """Tell whether a place has the walls, the cover and the height that the stop of a visit had."""
    stop = analysis.visits[visit].key.stop
    if abs(place.height_db.get(link.rig, 0.0)) > SAME_DB:
        return False
    if place.cover != analysis.stops.get(stop, StopFacts()).cover:
        return False
    known, own = analysis.site.walls, on_way(place.walls_db, link.rig, link.receiver)
    if known is None or own is None:
        return True
    at_stop = on_way(known.ways, link.rig, link.receiver, stop) or 0.0
    return abs(own - at_stop) <= SAME_DB


def outside(
    analysis: Analysis, place: NeededPlace, fixed: tuple[float, float] | None
) -> tuple[str, ...]:
    """Return in what a place lies outside what was walked."""
    found, d = [], analysis.distances_m
    if not len(d):  # nothing was walked yet that a place could lie outside of
        return ()
    if place.distance_m > BESIDE * d[-1]:
        found.append("farther than any stop")
    if place.distance_m < d[0] / BESIDE:
        found.append("nearer than any stop")
    walked = {visit.key.stop for visit in analysis.visits}
    if place.cover not in {analysis.stops.get(one, StopFacts()).cover for one in walked}:
        found.append("under other cover than any stop")
    found += place.unlike
    if fixed is None or place.spot is None:
        return tuple(found)
    start = Place(lat_deg=fixed[0], lon_deg=fixed[1])
    spots = [one.spot for one in analysis.stops.values() if one.spot]
    seen = [_azimuth(start, spot) for spot in spots if spot != fixed]
    if seen:
        own = _azimuth(start, place.spot)
        if min(abs((own - one + 180) % 360 - 180) for one in seen) > TURNED_DEG:
            found.append("in a direction that was not walked")
    return tuple(found)


def _azimuth(start: Place, spot: tuple[float, float]) -> float:
    return geodesic(start, Place(lat_deg=spot[0], lon_deg=spot[1])).azimuth_deg
