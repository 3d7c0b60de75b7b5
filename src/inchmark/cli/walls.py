"""Walls from a file, for a reading without the web."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path

from inchmark.core.propagation.walls import Wall, Walls
from inchmark.core.reading.expected import NeededPlace
from inchmark.core.reading.measured import ReceiverFacts, SiteFacts, StopFacts
from inchmark.core.reading.walled import losses_to_spots, wall_facts
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.features import read_features

Spot = tuple[float, float]


def behind_walls(
    site: SiteFacts,
    places: Sequence[NeededPlace],
    file: Path,
    stops: Mapping[str, StopFacts],
    fixed: Spot | None,
) -> tuple[SiteFacts, tuple[NeededPlace, ...]]:
    """Return site and places with the walls of a file; why they do not count is kept with the site.

    Raises
    ------
    UnreadableFileError
        The file cannot be read, or holds no wall.
    """
    walls = read_walls(file)
    receivers = _receivers(site, fixed)
    frequencies = {"": site.frequency_hz} if site.frequency_hz else {}
    facts, left = wall_facts(walls, receivers, stops, frequencies)
    site = replace(site, walls=facts, walls_left=left)
    if facts is None:
        return site, tuple(places)
    spots = [one.spot for one in places if one.spot is not None]
    costs = losses_to_spots(walls, receivers, spots, frequencies)
    return site, tuple(replace(one, walls_db=cost) for one, cost in zip(places, costs, strict=True))


def read_walls(file: Path) -> Walls:
    """Return the walls of a GeoJSON file: lines and outlines with a `wall` or a `loss_db`."""
    found = [
        Wall(
            points=tuple(ring),
            kind=one.wall.kind,
            thickness_m=one.wall.thickness_m,
            loss_db=one.wall.loss_db,
            name=one.name,
        )
        for one in read_features(file.read_bytes())
        if one.wall is not None
        for ring in one.rings
    ]
    if not found:
        raise UnreadableFileError(
            f"{file.name} holds no wall: a line or an area whose properties name a “wall”, what it is made of, or a “loss_db”."
        )
    try:
        return Walls(walls=tuple(found))
    except ValueError as wrong:
        raise UnreadableFileError(f"{file.name}: {wrong}.") from None


def _receivers(site: SiteFacts, fixed: Spot | None) -> Sequence[ReceiverFacts]:
    """Return the receivers, the first of them at the fixed end."""
    if not site.receivers:
        return (ReceiverFacts(spot=fixed),)
    first, *others = site.receivers
    return (first if first.spot else replace(first, spot=fixed), *others)
