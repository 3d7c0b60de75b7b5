"""What stands on the tape: stops, ranges, where to stand next.

The tape knows no room: each registers a provider that hands over its marks.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import dataclass, field

from inchmark.core.wording import distance
from inchmark.studies.models import Study


@dataclass(frozen=True, slots=True, kw_only=True)
class StopMark:
    """A numbered marker above the tape."""

    label: str
    name: str
    distance_m: float
    url: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RangeMark:
    """A rig's bracket below the tape; hollow when predicted, or when it is only tried."""

    letter: str
    name: str
    url: str
    middle_m: float | None = None
    low_m: float | None = None
    high_m: float | None = None
    measured: bool = True
    was_m: float | None = None  # where it stands as it is, when a change is tried

    @property
    def known(self) -> tuple[float, float, float] | None:
        """Return low, middle and high [m]; None where there is no range."""
        if not self.middle_m or self.low_m is None or self.high_m is None:
            return None
        return self.low_m, self.middle_m, self.high_m

    @property
    def figure(self) -> str:
        """Return the range as it stands beside the bracket."""
        if self.known is None:
            return "no range"
        how = " what if" if self.was_m else "" if self.measured else " predicted"
        return f"{distance(self.known[1])}{how}"

    @property
    def words(self) -> str:
        """Return the mark as a sentence says it."""
        if self.known is None:
            return f"{self.letter} {self.name} no range"
        how = "what if" if self.was_m else "measured" if self.measured else "predicted"
        low, middle, high = (distance(one) for one in self.known)
        return f"{self.letter} {self.name} {middle} {how}, {low} to {high}"


@dataclass(frozen=True, slots=True, kw_only=True)
class NextMark:
    """Where to stand next: a hollow marker above the tape, and why."""

    distance_m: float
    words: str
    url: str


@dataclass(slots=True)
class Marks:
    """What the rooms hand over for one study."""

    stops: list[StopMark] = field(default_factory=list)
    # a later room's mark replaces an earlier one's
    ranges: dict[str, RangeMark] = field(default_factory=dict)
    next: NextMark | None = None


Provider = Callable[[Study, Marks], None]
Stamp = Callable[[Study], Hashable]


_providers: list[Provider] = []
_stamps: list[Stamp] = []


def provide(provider: Provider, *, stamp: Stamp | None = None) -> None:
    """Register a room's provider; rooms register in the order of the work.

    `stamp` tells apart what it draws under one revision of a study.
    """
    if provider not in _providers:
        _providers.append(provider)
        if stamp is not None:
            _stamps.append(stamp)


def stamp_of(study: Study) -> tuple[Hashable, ...]:
    """Return what the tape depends on besides the study's revision."""
    return tuple(stamp(study) for stamp in _stamps)


def marks_of(study: Study) -> Marks:
    """Return all that stands on a study's tape, stops by distance and rigs by letter."""
    found = Marks()
    for provider in _providers:
        provider(study, found)
    found.stops.sort(key=lambda one: one.distance_m)
    found.ranges = dict(sorted(found.ranges.items()))
    return found
