"""Places that need a node, and what a walk says of them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from inchmark.core.interval import Estimate
from inchmark.core.wording import percent

LIKELY = 0.95  # a place that meets the rule with less is named


@dataclass(frozen=True, slots=True, kw_only=True)
class NeededPlace:
    """A place that needs a node: what it is called, and where it lies [degrees] and how far [m].

    `path_db` is the loss of its own path over terrain and at its own height [dB], where known;
    `walls_db` what drawn walls cost on it as they are said, by rig and receiver [dB]; the rig "" is any,
    the receiver "" the fixed end.
    `cover` is what covers it, `cover_db` what that and floors between cost each rig, and `height_db` what
    its own height costs against the one walked with, where it has one [dB].
    Without a spot it is any place so far from the fixed end.
    """

    name: str
    spot: tuple[float, float] | None
    distance_m: float
    path_db: float | None = None
    walls_db: Mapping[tuple[str, str], float] = field(default_factory=dict)
    cover: str = ""
    cover_db: Mapping[str, float] = field(default_factory=dict)
    height_db: Mapping[str, float] = field(default_factory=dict)
    unlike: tuple[str, ...] = ()  # in what else it lies outside what was walked


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceReading:
    """What is expected of a rig at a place; shares of frames and probabilities from 0 to 1.

    `meets` is the probability that the loss rule holds there. None where the walk cannot tell.
    """

    place: str
    distance_m: float
    level_dbm: Estimate | None = None
    in_hand_db: Estimate | None = None
    share: Estimate | None = None
    meets: Estimate | None = None
    measured_at: str = ""  # the stop whose frames these are
    extrapolated: tuple[str, ...] = ()  # in what the place lies outside the walk


@dataclass(frozen=True, slots=True, kw_only=True)
class Served:
    """A rig over all places: what of each, and how many meet the rule; `drawn` as `PlaceDraws` keeps it."""

    rig: str
    places: tuple[PlaceReading, ...]
    count: Estimate | None
    drawn: str = ""


def served_words(one: Served) -> str:
    """Return in a sentence how many places a rig serves, the weakest first."""
    if one.count is None:
        return f"{one.rig}: the walk cannot say which places are served."
    if len(one.places) == 1 and one.places[0].meets:
        (only,) = one.places
        return f"{one.rig}: {only.place}, the rule is met with {percent(_chance(only))}."
    told = sorted((row for row in one.places if row.meets), key=_chance)
    weak = [f"{row.place} {percent(_chance(row))}" for row in told[:3] if _chance(row) < LIKELY]
    words = f"{one.rig}: serves {one.count.estimate:.0f} of {len(one.places)} (95 %: {one.count.low:.0f} to {one.count.high:.0f})"
    return f"{words}; least likely {', '.join(weak)}." if weak else f"{words}."


def _chance(row: PlaceReading) -> float:
    return row.meets.estimate if row.meets else 0.0
