"""Stops and needed places as a reading takes them: with what is known of each one's own way."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from inchmark.core.reading.expected import NeededPlace
from inchmark.core.reading.measured import SiteFacts, StopFacts
from inchmark.core.reading.walled import losses_to_spots
from inchmark.core.terrain import TerrainGrid
from inchmark.plan.adapters.own_paths import cover_costs_db, cover_of, height_costs_db, unlike_of
from inchmark.plan.adapters.places import FixedEnd, Target, target_of
from inchmark.plan.adapters.stops import stop_facts
from inchmark.plan.adapters.walls import walls_of
from inchmark.plan.models import Site, Stop
from inchmark.shelf.models import Rig


def covered_stops(
    stops: Sequence[Stop], rigs: Sequence[Rig], site: Site | None
) -> dict[str, StopFacts]:
    """Return what is known of stops by their label, with what covers each."""
    targets = [target_of(one, one.distance_m) for one in stops]
    costs = cover_costs_db(targets, rigs, site)
    return {
        stop.label: replace(stop_facts(stop, site), cover=cover_of(target, site), cover_db=cost)
        for stop, target, cost in zip(stops, targets, costs, strict=True)
    }


def needed_places(
    targets: Sequence[Target],
    rigs: Sequence[Rig],
    site: Site,
    facts: SiteFacts,
    end: FixedEnd,
    grid: TerrainGrid | None,
    paths: Mapping[int, float],
) -> tuple[NeededPlace, ...]:
    """Return needed places with their own ways; `paths` are losses over terrain by their number [dB]."""
    spots = [(float(one.lat or 0.0), float(one.lon or 0.0)) for one in targets]
    walls = _walls_to(site, facts, rigs, spots)
    covers = cover_costs_db(targets, rigs, site)
    heights = height_costs_db(targets, rigs, end, grid, site)
    return tuple(
        NeededPlace(
            name=one.label,
            spot=spots[i],
            distance_m=one.distance_m,
            path_db=paths.get(one.pk),
            walls_db=walls[i],
            cover=cover_of(one, site),
            cover_db=covers[i],
            height_db=heights[i],
            unlike=unlike_of(one, rigs),
        )
        for i, one in enumerate(targets)
    )


def _walls_to(
    site: Site, facts: SiteFacts, rigs: Sequence[Rig], spots: list[tuple[float, float]]
) -> list[dict[tuple[str, str], float]]:
    """Return what walls cost to each place by rig and receiver [dB]; nothing where they do not count."""
    walls = walls_of(site) if facts.walls else None
    if walls is None:
        return [{} for _ in spots]
    frequencies = {rig.letter: rig.frequency_hz for rig in rigs}
    return losses_to_spots(walls, facts.receivers, spots, frequencies)
