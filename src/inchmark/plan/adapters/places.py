"""The places a prediction is about: fixed ends that listen, and stops and nodes that send."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Protocol

from inchmark.core.geodesy import Place, distances_m
from inchmark.core.prediction import LEAST_HEIGHT_M
from inchmark.core.reading.measured import ReceiverFacts, SiteFacts
from inchmark.plan.models import Site, SitePoint, Stop
from inchmark.shelf.models import Rig
from inchmark.studies.models import Study


@dataclass(frozen=True, slots=True, kw_only=True)
class FixedEnd:
    """A place that listens; the height of its antenna is the rig's where None [m]."""

    label: str
    name: str
    place: Place | None
    height_m: float | None = None
    main: bool = True

    def __str__(self) -> str:
        """Return its name, or its label."""
        return self.name or self.label

    def antenna_m(self, rig: Rig) -> float:
        """Return how high the antenna of a rig stands here [m]."""
        return max(rig.fixed_height_m if self.height_m is None else self.height_m, LEAST_HEIGHT_M)


class HasCoordinates(Protocol):
    """What may have coordinates [degrees]."""

    @property
    def lat(self) -> float | None: ...  # noqa: D102

    @property
    def lon(self) -> float | None: ...  # noqa: D102


def place_of(located: HasCoordinates | None) -> Place | None:
    """Return where something lies, None where that is not known."""
    if located is None or located.lat is None or located.lon is None:
        return None
    return Place(lat_deg=float(located.lat), lon_deg=float(located.lon))


def fixed_ends(site: Site | None, points: Sequence[SitePoint]) -> list[FixedEnd]:
    """Return the fixed end and the further receivers."""
    main = FixedEnd(
        label="",
        name=str(site) if site else "fixed end",
        place=place_of(site),
    )
    return [
        main,
        *(
            FixedEnd(
                label=one.label,
                name=one.name,
                height_m=one.antenna_m,
                main=False,
                place=Place(lat_deg=one.lat, lon_deg=one.lon),
            )
            for one in points
            if one.kind == SitePoint.RECEIVER
        ),
    ]


def site_facts(study: Study, site: Site | None, rigs: Sequence[Rig]) -> SiteFacts:
    """Return what is known of paths and receivers before anything is walked.

    Frequency and heights are said where all rigs agree in them.
    """
    spot = None
    if site is not None and site.lat is not None and site.lon is not None:
        spot = (site.lat, site.lon)
    main = ReceiverFacts(name="", spot=spot)
    others = [
        ReceiverFacts(name=one.label, spot=(one.lat, one.lon), height_m=one.antenna_m)
        for one in study.points.filter(kind=SitePoint.RECEIVER)
    ]
    return SiteFacts(
        frequency_hz=_agreed([rig.frequency_hz for rig in rigs]),
        fixed_height_m=_agreed([rig.fixed_height_m for rig in rigs]),
        carried_height_m=_agreed([rig.height_m for rig in rigs]),
        receivers=(main, *others),
        needed_m=study.needed_m,
        ground=site.ground if site else "ground",
        open_ground=site is not None and site.model == "two_ray",
    )


def _agreed(values: Sequence[float]) -> float | None:
    """Return the value all have, to a part in a hundred; None where they differ."""
    if not values or max(values) > 1.01 * min(values):
        return None
    return float(values[0])


@dataclass(frozen=True, slots=True, kw_only=True)
class Target:
    """A stop or a needed place, its way from a fixed end, and what covers it.

    The height of its antenna is the rig's where None [m]; `profile` is typed and holds for the
    fixed end only.
    """

    pk: int
    label: str
    name: str
    distance_m: float
    needed: bool
    lat: float | None
    lon: float | None
    cover: str
    cover_name: str
    cover_m: float
    floors: int
    height_m: float | None
    profile: list[list[object]]

    def antenna_m(self, rig: Rig) -> float:
        """Return how high the antenna of a rig stands here [m]."""
        return max(rig.height_m if self.height_m is None else self.height_m, LEAST_HEIGHT_M)


def target_of(place: Stop | SitePoint, distance_m: float) -> Target:
    """Return a stop or a needed place at a distance [m] from a fixed end."""
    needed = isinstance(place, SitePoint)
    return Target(
        pk=place.pk,
        label=place.label,
        name=place.name,
        distance_m=distance_m,
        needed=needed,
        lat=place.lat,
        lon=place.lon,
        cover=place.cover,
        cover_m=place.cover_m,
        floors=place.floors,
        cover_name=place.get_cover_display() if place.cover else "",
        height_m=place.antenna_m if isinstance(place, SitePoint) else None,
        profile=[] if isinstance(place, SitePoint) else place.profile,
    )


def targets_from(ones: Sequence[Stop | SitePoint], fixed: FixedEnd) -> list[Target]:
    """Return stops and needed places as seen from a fixed end, without those at no known distance.

    From the fixed end a stop is as far as the plan says, whatever measured it; from a further
    receiver everything is measured between coordinates.
    """
    found = []
    for one, away in zip(ones, _between(ones, fixed), strict=True):
        typed = one.distance_m if isinstance(one, Stop) and fixed.main else None
        if typed or away:
            target = target_of(one, typed or away or 0.0)
            found.append(target if fixed.main else replace(target, profile=[]))
    return found


def _between(ones: Sequence[Stop | SitePoint], fixed: FixedEnd) -> list[float | None]:
    """Return how far each lies from a fixed end by coordinates [m], None where one is missing."""
    placed = [(i, place) for i, place in enumerate(map(place_of, ones)) if place]
    found: list[float | None] = [None] * len(ones)
    if fixed.place is not None and placed:
        lats, lons = zip(*((place.lat_deg, place.lon_deg) for _, place in placed), strict=True)
        away = distances_m(fixed.place, lats, lons).tolist()
        for (i, _), metres in zip(placed, away, strict=True):
            found[i] = metres
    return found
