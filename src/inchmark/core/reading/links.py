"""Visits as the fit takes them: links with what is known of each, distances to each receiver."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.constants import EARTH_M_PER_DEG
from inchmark.core.geodesy import Place, geodesic
from inchmark.core.link_model.data import FitVisit, LinkKey, LinkPrior
from inchmark.core.link_model.priors import SIDE_BY_SIDE_M
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.reading.measured import (
    REPLIES,
    TO_CARRIED,
    TO_FIXED,
    MeasuredVisit,
    ReceiverFacts,
    RigFacts,
    SiteFacts,
    StopFacts,
    direction_of,
)
from inchmark.core.reading.positions import WalkedTo, walked_to
from inchmark.core.reading.rules import USUAL_EXPONENT
from inchmark.core.reception.position import Position

IN_ONE_ROOM_M = 1.0  # receivers so near are one place even where walls are drawn
NEAR_M = 10.0  # as free space so far; common practice
SD_OF_PLUS_MINUS = 2.0  # a +- somebody writes down is taken as two standard deviations


@dataclass(frozen=True, slots=True, kw_only=True)
class Ground:
    """What is known around the visits."""

    rigs: Mapping[str, RigFacts]
    stops: Mapping[str, StopFacts]
    site: SiteFacts

    def receiver(self, name: str) -> ReceiverFacts | None:
        """Return what is known of a receiver; the only one there is where none is named."""
        found = next((one for one in self.site.receivers if one.name == name), None)
        if found is None and not name and len(self.site.receivers) == 1:
            return self.site.receivers[0]
        return found


def with_directions(visits: Iterable[MeasuredVisit]) -> list[MeasuredVisit]:
    """Return visits with directions by their one name; unsaid is "to fixed" where some say it."""
    named = [
        replace(v, key=replace(v.key, direction=direction_of(v.key.direction))) for v in visits
    ]
    if not any(v.key.direction for v in named):
        return named
    return [
        v if v.key.direction else replace(v, key=replace(v.key, direction=TO_FIXED)) for v in named
    ]


def link_of(visit: MeasuredVisit) -> LinkKey:
    """Return the link a visit is of."""
    key = visit.key
    return LinkKey(key.rig, key.direction, key.receiver)


def link_priors(rows: Iterable[FitVisit], ground: Ground) -> dict[LinkKey, LinkPrior]:
    """Return what is known of each link: of what receives there, and of both ends' powers.

    The level a budget expects is wanted where no frame bears one.
    """
    rows = list(rows)
    centre = float(np.exp(np.mean([np.log(row.distance_m) for row in rows])))
    return {
        link: replace(_prior(link, ground), expected_dbm=_expected_dbm(link, ground, centre))
        for link in {row.link for row in rows}
    }


def receiving_module(link: LinkKey, ground: Ground) -> str:
    """Return the type of module that hears a link; one without a name is told by its rig."""
    return _prior(link, ground).module_type or f"What hears {link.rig}"


def _expected_dbm(link: LinkKey, ground: Ground, metres: float) -> float | None:
    """Return the level expected at a distance [dBm]: free space to ten metres, then n = 3."""
    reference = ground.rigs.get(link.rig, RigFacts()).reference_dbm
    if reference is None or ground.site.frequency_hz is None:
        return None
    near = free_space_loss_db(min(metres, NEAR_M), ground.site.frequency_hz)
    beyond = 10 * USUAL_EXPONENT * np.log10(max(metres / NEAR_M, 1.0))
    return float(reference - near - beyond)


def _prior(link: LinkKey, ground: Ground) -> LinkPrior:
    facts = ground.rigs.get(link.rig, RigFacts())
    rig = facts.prior
    at_carried = link.direction == TO_CARRIED
    there = None if at_carried else ground.receiver(link.receiver)
    module, setting, unit = rig.module_type, rig.setting, rig.unit if at_carried else ""
    sensitivity, conducted = rig.sensitivity_dbm, rig.conducted
    if there is not None and there.module_type:
        module, setting, unit = there.module_type, there.setting, there.unit
        if there.sensitivity_dbm is not None:
            sensitivity, conducted = there.sensitivity_dbm, False
    return LinkPrior(
        module_type=module,
        setting=setting,
        unit=unit,
        sensitivity_dbm=sensitivity,
        conducted=conducted,
        pair=link.direction == REPLIES,
        expected_db=facts.to_carried_db if at_carried else 0.0,
    )


def fit_visits(visits: Sequence[MeasuredVisit], ground: Ground) -> list[FitVisit]:
    """Return visits as the fit takes them, in their order.

    The distance is to the receiver that heard: as given to the first of them, from coordinates to
    the others.
    """
    places = _receiver_places(ground.site.receivers, _side_by_side_m(ground.site))
    positions = positions_by_stop(visits)
    origin = next((one.spot for one in ground.stops.values() if one.spot), None)
    first = ground.site.receivers[0].name if ground.site.receivers else ""
    rows = []
    for v in visits:
        stop, there = ground.stops.get(v.key.stop, StopFacts()), ground.receiver(v.key.receiver)
        metres = v.distance_m
        if there and there.name != first and there.spot and stop.spot:
            metres = max(_geodesic_m(stop.spot, there.spot), 0.1)
        rows.append(
            FitVisit(
                link=link_of(v),
                stop=v.key.stop,
                distance_m=metres,
                condition=v.key.condition,
                summary=v.summary,
                receiver_place=places.get(v.key.receiver, v.key.receiver),
                spot=metres_from(stop.spot, origin),
                receiver_spot=metres_from(there.spot if there else None, origin),
                distance_sd_m=_distance_sd_m(
                    stop,
                    metres,
                    walked_to(positions.get(v.key.stop, ()), there.spot if there else None),
                ),
            )
        )
    return rows


def positions_by_stop(visits: Iterable[MeasuredVisit]) -> dict[str, list[Position]]:
    """Return the positions of the frames of each stop's visits."""
    found: dict[str, list[Position]] = {}
    for v in visits:
        if v.summary.position is not None:
            found.setdefault(v.key.stop, []).append(v.summary.position)
    return found


def _distance_sd_m(stop: StopFacts, metres: float, walked: WalkedTo | None) -> float:
    written = (stop.plus_minus_m or 0.0) / SD_OF_PLUS_MINUS
    return float(np.hypot(written, walked.sd_m(metres) if walked else 0.0))


def _side_by_side_m(site: SiteFacts) -> float:
    """Return how near to each other receivers are one place [m]; where walls are drawn a room is small."""
    return SIDE_BY_SIDE_M if site.walls is None else IN_ONE_ROOM_M


def _receiver_places(receivers: Sequence[ReceiverFacts], near_m: float) -> dict[str, str]:
    """Return the place of each receiver: that of the first one so near."""
    found: dict[str, str] = {}
    for one in receivers:
        near = (
            other.name
            for other in receivers
            if other.name in found
            and one.spot
            and other.spot
            and _geodesic_m(one.spot, other.spot) <= near_m
        )
        beside = next(near, None)
        found[one.name] = one.name if beside is None else found[beside]
    return found


def side_by_side(site: SiteFacts, a: str, b: str) -> bool:
    """Tell whether two receivers stand at one place."""
    places = _receiver_places(site.receivers, _side_by_side_m(site))
    return a != b and a in places and places.get(a) == places.get(b)


def _geodesic_m(a: tuple[float, float], b: tuple[float, float]) -> float:
    start, end = Place(lat_deg=a[0], lon_deg=a[1]), Place(lat_deg=b[0], lon_deg=b[1])
    return geodesic(start, end).distance_m


def metres_from(
    spot: tuple[float, float] | None, origin: tuple[float, float] | None
) -> tuple[float, float] | None:
    """Return metres east and north of a point; flat enough over a walk."""
    if spot is None or origin is None:
        return None
    east = (spot[1] - origin[1]) * EARTH_M_PER_DEG * float(np.cos(np.radians(origin[0])))
    return east, (spot[0] - origin[0]) * EARTH_M_PER_DEG
