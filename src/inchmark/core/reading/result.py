"""What a reading says, in frozen records: nothing here is computed again or looked up by name.

An estimate is None where the data cannot carry an answer.
"""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.interval import Estimate
from inchmark.core.reading.rules import RangeRules
from inchmark.core.stop_rules import StopRanges

CAUTION, FACT, GOOD = "caution", "fact", "good"


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """One judgement. `kind`: caution (act on it), fact (know it), good (rely on it)."""

    code: str
    title: str
    text: str
    kind: str = CAUTION
    rig: str = ""
    stop: str = ""
    ref: int | None = None  # the visit it speaks of, as its owner numbers it

    @property
    def subject(self) -> str:
        """Return what tells two notes of one code apart."""
        return "/".join(part for part in (self.rig, self.stop) if part)


@dataclass(frozen=True, slots=True, kw_only=True)
class SiteReading:
    """What the stops say of the site."""

    exponent: Estimate | None
    shadowing_db: Estimate | None
    kept_for_places_db: Estimate | None  # above the threshold, for the rule at a typical place
    frames_per_independent_frame: float
    clip_dbm: float | None
    penalties_db: tuple[tuple[str, Estimate], ...]  # condition, loss


@dataclass(frozen=True, slots=True, kw_only=True)
class Needed:
    """A rig at the needed distance, with the distance it was read at [m]."""

    distance_m: float
    level_dbm: Estimate | None = None
    in_hand_db: Estimate | None = None
    delivery: Estimate | None = None  # share of frames at a random place


@dataclass(frozen=True, slots=True, kw_only=True)
class RigReading:
    """One rig: counts, the level at half loss, and how far it goes under each rule."""

    rig: str
    sent: int
    heard: int
    threshold_dbm: Estimate | None
    loss_range_m: Estimate | None
    in_hand_range_m: Estimate | None
    on_stops: StopRanges
    edge_reached: bool
    extrapolated: bool
    needed: Needed | None
    # level on the RSSI's scale with no path between, as the rig was when it was read; with the
    # level at a distance it tells what the path loses [dBm]
    reference_dbm: float | None

    @property
    def last_heard_m(self) -> float | None:
        """Return the farthest stop where anything arrived [m]."""
        return self.on_stops.last_heard


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """A rig against another [dB]: margin always, signal within one module type."""

    rig: str
    against: str
    margin_db: Estimate | None
    signal_db: Estimate | None


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitReading:
    """One visit: what was sent and heard, and its level with and without the lost frames."""

    ref: int | None
    rig: str
    stop: str
    condition: str
    direction: str
    receiver: str
    walk: str
    distance_m: float
    sent: int
    heard: int
    loss: Estimate
    worth_frames: float  # independent frames
    heard_level_dbm: float | None  # mean RSSI of the heard alone
    level_dbm: Estimate | None  # lost frames counted
    heard_reads_high: bool  # whether the mean of the heard alone misleads
    noise_dbm: float | None
    in_hand_db: float | None
    interfered: bool
    resets: int
    duplicates: int
    out_of_order: int
    wraps: int
    silent_tail: int


@dataclass(frozen=True, slots=True, kw_only=True)
class CurvePoint:
    """Level [dBm] and share delivered at a distance [m]."""

    distance_m: float
    level_dbm: Estimate | None
    delivery: Estimate | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Curve:
    """A rig over distance, for drawing."""

    rig: str
    points: tuple[CurvePoint, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class UnitReading:
    """A piece of a rig that was walked with several, against the first of them.

    Pieces that never shared a walk differ by the day too; `same_walks` tells.
    """

    rig: str
    unit: str
    against: str  # empty for the first
    walks: tuple[str, ...]
    same_walks: bool
    sent: int
    heard: int
    signal_db: Estimate | None
    margin_db: Estimate | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """All that visits say, with the rules and the needed distance [m] they were read under."""

    rules: RangeRules
    needed_m: float | None
    site: SiteReading
    rigs: tuple[RigReading, ...]
    differences: tuple[Difference, ...]
    visits: tuple[VisitReading, ...]
    notes: tuple[Note, ...]
    curves: tuple[Curve, ...] = ()
    units: tuple[UnitReading, ...] = ()
    why_no_fit: str = ""

    def of_rig(self, rig: str) -> RigReading | None:
        """Return what is said of a rig, None where it was not walked."""
        return next((one for one in self.rigs if one.rig == rig), None)
