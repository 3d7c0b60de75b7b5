"""Where the carrier is when: stops with a stay at each, and the way between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from inchmark.core.geodesy import Place, destination

WALKING_M_PER_S = 1.3
FIXED_END = Place(lat_deg=54.2, lon_deg=7.9)  # open sea: nobody's house


class Stay(NamedTuple):
    """From when to when the carrier stands at a stop [s since the start]."""

    stop: str
    metres: float
    from_s: float
    to_s: float


class At(NamedTuple):
    """Where the carrier is: metres from the fixed end, and the stop it stands at ("" on the way)."""

    metres: float
    stop: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Route:
    """Stops by name and distance [m] along one bearing, a stay at each [s], speed between [m/s]."""

    stops: Sequence[tuple[str, float]]
    dwell_s: float = 120.0
    speed_m_per_s: float = WALKING_M_PER_S
    bearing_deg: float = 70.0
    start: Place = FIXED_END

    def __post_init__(self) -> None:
        """Refuse a route that leads nowhere."""
        if not self.stops:
            raise ValueError("A route needs at least one stop.")
        if self.speed_m_per_s <= 0 or self.dwell_s < 0:
            raise ValueError("Speed must be above 0 m/s, and the stay at a stop not below 0 s.")

    def stays(self) -> list[Stay]:
        """Return the stays in order; the first begins at 0 s."""
        found: list[Stay] = []
        clock, before = 0.0, self.stops[0][1]
        for name, metres in self.stops:
            clock += abs(metres - before) / self.speed_m_per_s
            found.append(Stay(name, metres, clock, clock + self.dwell_s))
            clock, before = clock + self.dwell_s, metres
        return found

    def at(self, time_s: float, stays: Sequence[Stay]) -> At:
        """Return where the carrier is at a time; at the last stop for ever after."""
        before: Stay | None = None
        for stay in stays:
            if time_s < stay.from_s:
                if before is None:
                    break
                share = (time_s - before.to_s) / (stay.from_s - before.to_s)
                return At(before.metres + share * (stay.metres - before.metres), "")
            if time_s < stay.to_s:
                return At(stay.metres, stay.stop)
            before = stay
        return At(stays[-1].metres, stays[-1].stop)

    def place(self, metres: float) -> Place:
        """Return where on the earth so many metres from the fixed end are."""
        return destination(self.start, self.bearing_deg, metres)
