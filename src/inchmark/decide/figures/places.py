"""Needed places from the walk: which each rig serves, how sure that is, the weakest first."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from inchmark.core.interval import Estimate
from inchmark.core.reading.expected import PlaceReading, Served, served_words
from inchmark.core.wording import listed, number, percent
from inchmark.decide.figures.tried import verdict_of
from inchmark.plan.models import SitePoint


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceCell:
    """A rig at a place: how likely the rule holds there, share of frames and dB in hand with limits."""

    rig: str
    chance: float | None
    verdict: str  # holds, short, open, or empty where nothing is known
    share: str
    in_hand: str
    measured_at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceRow:
    """A place with what each rig does there; `best` is the chance of the rig that does most."""

    label: str
    name: str
    distance_m: float
    cells: list[PlaceCell]
    extrapolated: str
    best: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PlacesTable:
    """All needed places, the weakest first, and how many each rig serves."""

    rigs: list[str]
    rows: list[PlaceRow]
    served: list[tuple[str, str]]  # rig, in words

    @property
    def headline(self) -> str:
        """Return how many places the rig that serves most serves."""
        return self.served[0][1] if self.served else ""


def places_table(served: Sequence[Served], points: Mapping[str, SitePoint]) -> PlacesTable | None:
    """Return the table; None where the reading knows no places."""
    if not served or not served[0].places:
        return None
    ranked = sorted(served, key=lambda one: -(one.count.estimate if one.count else -1.0))
    by_rig = {one.rig: {place.place: place for place in one.places} for one in served}
    rows = [_row(place, by_rig, points) for place in served[0].places]
    return PlacesTable(
        rigs=[one.rig for one in served],
        rows=sorted(rows, key=lambda row: (row.best, -row.distance_m)),
        served=[(one.rig, served_words(one)) for one in ranked],
    )


def _row(
    place: PlaceReading,
    by_rig: Mapping[str, Mapping[str, PlaceReading]],
    points: Mapping[str, SitePoint],
) -> PlaceRow:
    cells = [_cell(rig, places[place.place]) for rig, places in by_rig.items()]
    known = points.get(place.place)
    return PlaceRow(
        label=place.place,
        name=known.name if known else "",
        distance_m=place.distance_m,
        cells=cells,
        extrapolated=listed(list(place.extrapolated)) if place.extrapolated else "",
        best=max((cell.chance for cell in cells if cell.chance is not None), default=0.0),
    )


def _cell(rig: str, one: PlaceReading) -> PlaceCell:
    chance = one.meets.estimate if one.meets else None
    return PlaceCell(
        rig=rig,
        chance=chance,
        verdict=_verdict(chance),
        share=_range(one.share),
        in_hand=_decibels(one.in_hand_db),
        measured_at=one.measured_at,
    )


def _verdict(chance: float | None) -> str:
    if chance is None:
        return ""
    return verdict_of(chance)


def _range(found: Estimate | None) -> str:
    return f"{percent(found.low)} … {percent(found.high)} of frames" if found else ""


def _decibels(found: Estimate | None) -> str:
    if found is None:
        return ""
    return f"{number(found.estimate, 1, sign=True)} dB ({number(found.low)} … {number(found.high)})"
