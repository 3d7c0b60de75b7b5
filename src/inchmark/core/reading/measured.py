"""What a reading starts from: visits with their distances, and what is known of rigs and stops."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from inchmark.core.reception.visit import VisitKey, VisitSummary

TO_FIXED, TO_CARRIED, REPLIES = "to_fixed", "to_carried", "replies"
_SYNONYMS = {
    TO_FIXED: ("up", "uplink", "to fixed", "tofixed", "fixed", "in", "rx at fixed"),
    TO_CARRIED: ("down", "downlink", "to carried", "tocarried", "carried", "out", "to node"),
    REPLIES: ("reply", "exchange", "round trip", "round_trip", "roundtrip", "ping", "ack"),
}


def direction_of(text: str) -> str:
    """Return a direction by its one name; a word nobody knows stays as it is."""
    plain = text.strip().lower().replace("-", " ")
    for name, others in _SYNONYMS.items():
        if plain == name or plain in others or plain.replace(" ", "_") == name:
            return name
    return text.strip()


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredVisit:
    """One visit: who, where, how far [m], and its figures.

    `ref` is the number its owner knows it by; it is carried through and never read.
    """

    key: VisitKey
    distance_m: float
    summary: VisitSummary
    ref: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class StopFacts:
    """How a stop's distance [m] was measured: method, +- [m], and the geodesic beside it [m].

    `spot` is latitude and longitude [degrees]; `cover` what covers it, `cover_db` what that and floors
    between cost each rig [dB].
    """

    name: str = ""
    distance_m: float | None = None
    method: str = ""
    plus_minus_m: float | None = None
    geodesic_m: float | None = None
    spot: tuple[float, float] | None = None
    cover: str = ""
    cover_db: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReceiverFacts:
    """What hears at the fixed end: its type, setting and unit, and where it stands [degrees]."""

    name: str = ""
    module_type: str = ""
    setting: str = ""
    unit: str = ""
    sensitivity_dbm: float | None = None
    spot: tuple[float, float] | None = None
    height_m: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class RigPrior:
    """What is known of a rig before the walk; no sensitivity means the walk alone must tell."""

    module_type: str = ""
    setting: str = ""
    unit: str = ""  # the one carried, where it was the same all along
    sensitivity_dbm: float | None = None
    conducted: bool = False  # measured on the bench with this unit, not read in a datasheet


@dataclass(frozen=True, slots=True, kw_only=True)
class RigFacts:
    """A rig's prior, the named things a comparison would have to hold the same, and its level.

    `reference_dbm` is the level on the RSSI's scale with no path between [dBm];
    `to_carried_db` is how much stronger the fixed end arrives at the carried one than the other
    way round, from powers.
    """

    name: str = ""
    prior: RigPrior = field(default_factory=RigPrior)
    varied: tuple[tuple[str, str], ...] = ()  # (what, value)
    reference_dbm: float | None = None
    to_carried_db: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class TerrainFacts:
    """Loss over known terrain [dB]: to each stop, and along the walked bearings by distance [m]."""

    at_stops: Mapping[str, float]
    distance_m: tuple[float, ...]
    loss_db: tuple[float, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class WallFacts:
    """What drawn walls cost as they are said [dB]: on each way, and by distance [m].

    A way is of a rig, from a receiver, to a stop; the rig "" is any, the receiver "" the fixed end.
    `by_rig` are curves of rigs at frequencies of their own.
    """

    ways: Mapping[tuple[str, str, str], float]
    distance_m: tuple[float, ...]
    loss_db: tuple[float, ...]
    by_rig: Mapping[str, tuple[float, ...]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class SiteFacts:
    """What is known of the path before the walk: frequency [Hz], heights of both antennas [m].

    `reference_condition` is the one penalties are counted from.
    """

    frequency_hz: float | None = None
    fixed_height_m: float | None = None
    carried_height_m: float | None = None
    reference_condition: str | None = None
    receivers: tuple[ReceiverFacts, ...] = ()
    rssi_step_db: float | None = None  # of the readings, where it is known
    needed_m: float | None = None
    ground: str = "ground"
    open_ground: bool = False  # the plan says that paths run over open, flat ground
    terrain: TerrainFacts | None = None
    walls: WallFacts | None = None
    walls_left: str = ""  # why walls that are drawn are not counted

    @property
    def break_m(self) -> float | None:
        """Return the distance where the ground's reflection begins to cancel [m]: 4 h1 h2 / lambda."""
        if None in (self.frequency_hz, self.fixed_height_m, self.carried_height_m):
            return None
        return (
            4
            * float(self.fixed_height_m or 0)
            * float(self.carried_height_m or 0)
            * float(self.frequency_hz or 0)
            / 299_792_458.0
        )
