"""What drawn walls cost on the ways of a walk: to its stops, and by distance along its bearings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.geodesy import Place, destination, geodesic
from inchmark.core.propagation.walls import Walls
from inchmark.core.reading.measured import ReceiverFacts, StopFacts, WallFacts
from inchmark.core.wording import listed

BEARINGS, POINTS = 16, 48  # bearings looked along, distances on each
NEARER, FARTHER = 0.2, 3.0  # of the nearest and the farthest stop

Spot = tuple[float, float]


def wall_facts(
    walls: Walls | None,
    receivers: Sequence[ReceiverFacts],
    stops: Mapping[str, StopFacts],
    frequency_hz: float | None,
) -> tuple[WallFacts | None, str]:
    """Return what walls cost on the ways to stops walked to, or why they cannot be counted.

    The first receiver is the fixed end. Both are empty where there are no walls or no stops.
    """
    if walls is None or not stops:
        return None, ""
    why = _left(walls, receivers, stops, frequency_hz)
    start = receivers[0].spot if receivers else None
    if why or start is None:
        return None, why
    spots = {label: one.spot for label, one in stops.items() if one.spot is not None}
    frequency = frequency_hz or 1e9  # nothing depends on it where it is not known
    metres, along = _along(walls, start, list(spots.values()), frequency)
    at_stops = {
        one.name: dict(zip(spots, _losses(walls, one.spot, spots, frequency), strict=True))
        for one in receivers
        if one.spot is not None
    }
    at_stops.setdefault("", next(iter(at_stops.values())))
    return (
        WallFacts(
            at_stops=at_stops, distance_m=tuple(metres.tolist()), loss_db=tuple(along.tolist())
        ),
        "",
    )


def losses_to_spots(
    walls: Walls, receivers: Sequence[ReceiverFacts], spots: Sequence[Spot], frequency_hz: float
) -> list[tuple[tuple[str, float], ...]]:
    """Return what walls cost to each place from each receiver that has coordinates [dB], by its name."""
    if not spots:
        return []
    named = {str(i): spot for i, spot in enumerate(spots)}
    known = [one for one in receivers if one.spot is not None]
    rows = [_losses(walls, one.spot, named, frequency_hz) for one in known]
    return [
        tuple((one.name, row[i]) for one, row in zip(known, rows, strict=True))
        for i in range(len(spots))
    ]


def _left(
    walls: Walls,
    receivers: Sequence[ReceiverFacts],
    stops: Mapping[str, StopFacts],
    frequency_hz: float | None,
) -> str:
    if not receivers or receivers[0].spot is None:
        return "the fixed end has no coordinates"
    bare = [label for label, one in stops.items() if one.spot is None]
    if bare:
        several = len(bare) > 1
        return f"stop{'s' if several else ''} {listed(bare)} {'have' if several else 'has'} no coordinates"
    if frequency_hz is None and any(one.follows_frequency for one in walls.walls):
        return "the rigs send at different frequencies, and what a material costs depends on it; type what a crossing costs, or take light and heavy walls"
    return ""


def _losses(
    walls: Walls, start: Spot | None, spots: Mapping[str, Spot], frequency_hz: float
) -> list[float]:
    lat, lon = zip(*spots.values(), strict=True)
    place = _place(start or (0.0, 0.0))
    found: list[float] = walls.losses_db(place, lat, lon, frequency_hz).tolist()
    return found


def _along(
    walls: Walls, start: Spot, spots: Sequence[Spot], frequency_hz: float
) -> tuple[Floats, Floats]:
    """Return distances [m] and what walls cost there, over the bearings of the stops on average [dB]."""
    fixed = _place(start)
    ways = [geodesic(fixed, _place(spot)) for spot in spots]
    away = [max(one.distance_m, 0.1) for one in ways]
    metres = np.geomspace(NEARER * min(away), FARTHER * max(away), POINTS)
    azimuths = np.array(sorted({round(one.azimuth_deg) for one in ways}))
    chosen = np.linspace(0, len(azimuths) - 1, min(BEARINGS, len(azimuths))).round().astype(int)
    ends = [destination(fixed, float(a), float(d)) for a in azimuths[chosen] for d in metres]
    lat, lon = [one.lat_deg for one in ends], [one.lon_deg for one in ends]
    found = walls.losses_db(fixed, lat, lon, frequency_hz).reshape(-1, POINTS)
    return metres, found.mean(axis=0)


def _place(spot: Spot) -> Place:
    return Place(lat_deg=spot[0], lon_deg=spot[1])
