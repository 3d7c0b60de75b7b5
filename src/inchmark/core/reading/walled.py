"""What drawn walls cost on the ways of a walk: to its stops, and by distance along its bearings."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.geodesy import Place, destination, geodesic
from inchmark.core.propagation.walls import Walls
from inchmark.core.reading.measured import ReceiverFacts, StopFacts, WallFacts
from inchmark.core.wording import listed

BEARINGS, POINTS = 16, 48  # bearings looked along, distances on each
NEARER, FARTHER = 0.2, 3.0  # of the nearest and the farthest stop

Spot = tuple[float, float]
Frequencies = Mapping[str, float]  # by rig [Hz]


def wall_facts(
    walls: Walls | None,
    receivers: Sequence[ReceiverFacts],
    stops: Mapping[str, StopFacts],
    frequencies: Frequencies,
) -> tuple[WallFacts | None, str]:
    """Return what walls cost on the ways to stops walked to, or why they cannot be counted.

    The first receiver is the fixed end. Both are empty where there are no walls or no stops.
    """
    if walls is None or not stops:
        return None, ""
    why = _left(walls, receivers, stops, frequencies)
    start = receivers[0].spot if receivers else None
    if why or start is None:
        return None, why
    spots = {label: one.spot for label, one in stops.items() if one.spot is not None}
    asked = _asked(walls, frequencies)
    ends = _ends(receivers)
    ways = {
        (rig, name, stop): loss
        for rig, frequency in asked.items()
        for name, at in ends.items()
        for stop, loss in zip(spots, _losses(walls, at, spots.values(), frequency), strict=True)
    }
    rays = _Rays(start, list(spots.values()))
    curves = {rig: rays.mean_db(walls, frequency) for rig, frequency in asked.items()}
    everywhere = np.mean(list(curves.values()), axis=0)
    return (
        WallFacts(
            ways=ways,
            distance_m=tuple(rays.metres.tolist()),
            loss_db=tuple(everywhere.tolist()),
            by_rig={} if set(curves) == {""} else curves,
        ),
        "",
    )


def losses_to_spots(
    walls: Walls,
    receivers: Sequence[ReceiverFacts],
    spots: Sequence[Spot],
    frequencies: Frequencies,
) -> list[dict[tuple[str, str], float]]:
    """Return what walls cost to each place by rig and receiver [dB]; of receivers that have coordinates."""
    found: list[dict[tuple[str, str], float]] = [{} for _ in spots]
    if not spots:
        return found
    for rig, frequency in _asked(walls, frequencies).items():
        for name, at in _ends(receivers).items():
            for own, loss in zip(found, _losses(walls, at, spots, frequency), strict=True):
                own[rig, name] = loss
    return found


def _asked(walls: Walls, frequencies: Frequencies) -> Frequencies:
    """Return the frequencies that are told apart: one for all rigs where walls cost them the same."""
    values = set(frequencies.values())
    if len(values) > 1 and any(one.follows_frequency for one in walls.walls):
        return frequencies
    return {"": next(iter(values), 1e9)}  # nothing follows one that nobody knows


def _ends(receivers: Sequence[ReceiverFacts]) -> dict[str, Spot]:
    """Return where receivers stand by their names; the fixed end, the first, by no name too."""
    found = {one.name: one.spot for one in receivers if one.spot is not None}
    return {"": next(iter(found.values())), **found}


def _left(
    walls: Walls,
    receivers: Sequence[ReceiverFacts],
    stops: Mapping[str, StopFacts],
    frequencies: Frequencies,
) -> str:
    if not receivers or receivers[0].spot is None:
        return "the fixed end has no coordinates"
    bare = [label for label, one in stops.items() if one.spot is None]
    if bare:
        several = len(bare) > 1
        return f"stop{'s' if several else ''} {listed(bare)} {'have' if several else 'has'} no coordinates"
    if not frequencies and any(one.follows_frequency for one in walls.walls):
        return (
            "nobody says at which frequency the rigs send, and what a material costs depends on it"
        )
    return ""


def _losses(walls: Walls, start: Spot, spots: Iterable[Spot], frequency_hz: float) -> list[float]:
    lat, lon = zip(*spots, strict=True)
    found: list[float] = walls.losses_db(_place(start), lat, lon, frequency_hz).tolist()
    return found


class _Rays:
    """Distances along the bearings of stops [m], over which what walls cost is averaged."""

    def __init__(self, start: Spot, spots: Sequence[Spot]) -> None:
        self.fixed = _place(start)
        ways = [geodesic(self.fixed, _place(spot)) for spot in spots]
        away = [max(one.distance_m, 0.1) for one in ways]
        self.metres: Floats = np.geomspace(NEARER * min(away), FARTHER * max(away), POINTS)
        azimuths = np.array(sorted({round(one.azimuth_deg) for one in ways}))
        count = min(BEARINGS, len(azimuths))
        chosen = np.linspace(0, len(azimuths) - 1, count).round().astype(int)
        ends = [
            destination(self.fixed, float(turn), float(metres))
            for turn in azimuths[chosen]
            for metres in self.metres
        ]
        self.lat, self.lon = [one.lat_deg for one in ends], [one.lon_deg for one in ends]

    def mean_db(self, walls: Walls, frequency_hz: float) -> tuple[float, ...]:
        """Return what walls cost at the distances, over the bearings on average [dB]."""
        found = walls.losses_db(self.fixed, self.lat, self.lon, frequency_hz)
        return tuple(found.reshape(-1, POINTS).mean(axis=0).tolist())


def _place(spot: Spot) -> Place:
    return Place(lat_deg=spot[0], lon_deg=spot[1])
