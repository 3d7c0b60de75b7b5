"""A distance as a place: where on the way from stop to stop one is so far from the fixed end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from inchmark.core.geodesy import Place, destination, distances_m, geodesic

STEPS = 64  # a leg is looked at in so many parts, then the crossing is narrowed down
_HALVINGS = 24


@dataclass(frozen=True, slots=True, kw_only=True)
class OnRoute:
    """A place on a route, or beyond it, and where that is in words."""

    place: Place
    words: str


def on_route(fixed: Place, stops: Sequence[tuple[str, Place]], distance_m: float) -> OnRoute | None:
    """Return the first place so far from the fixed end on the way along stops in their order.

    Where the way nowhere comes so far, the place lies beyond the farthest stop, on its bearing (or
    short of the nearest). None without stops.
    """
    if not stops:
        return None
    legs = pairwise([("", fixed), *stops])
    for (start, one), (end, other) in legs:
        share = _crossing(fixed, one, other, distance_m)
        if share is not None:
            where = f"between stops {start} and {end}" if start else f"on the way to stop {end}"
            return OnRoute(place=_between(one, other, share), words=where)
    label, farthest = max(stops, key=lambda stop: geodesic(fixed, stop[1]).distance_m)
    course = geodesic(fixed, farthest)
    side = "beyond" if distance_m > course.distance_m else "short of"
    return OnRoute(
        place=destination(fixed, course.azimuth_deg, distance_m),
        words=f"{side} stop {label}, on its bearing from the fixed end",
    )


def _between(one: Place, other: Place, share: float) -> Place:
    return Place(
        lat_deg=one.lat_deg + share * (other.lat_deg - one.lat_deg),
        lon_deg=one.lon_deg + share * (other.lon_deg - one.lon_deg),
    )


def _crossing(fixed: Place, one: Place, other: Place, metres: float) -> float | None:
    """Return the share of a leg at which the distance is first crossed, None where it is not."""
    shares = np.linspace(0, 1, STEPS + 1)
    lats = one.lat_deg + shares * (other.lat_deg - one.lat_deg)
    lons = one.lon_deg + shares * (other.lon_deg - one.lon_deg)
    over = distances_m(fixed, lats, lons) - metres
    changes = np.flatnonzero(np.diff(np.signbit(over)))
    if not len(changes):
        return None
    low, high = float(shares[changes[0]]), float(shares[changes[0] + 1])
    rising = over[changes[0]] < 0
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        beyond = geodesic(fixed, _between(one, other, middle)).distance_m > metres
        low, high = (low, middle) if beyond == rising else (middle, high)
    return (low + high) / 2
