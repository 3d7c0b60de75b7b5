"""What a reading says, in frozen records: nothing here is computed again or looked up by name.

An estimate is None where the data cannot carry an answer.
"""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.interval import Estimate
from inchmark.core.reading.expected import Served
from inchmark.core.reading.rules import RangeRules
from inchmark.core.stop_rules import StopRanges

CAUTION, FACT, GOOD = "caution", "fact", "good"


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """One judgement. `kind`: caution (act on it), fact (know it), good (rely on it).

    One note speaks of all places of its kind: `refs` are the visits as their owner numbers them,
    the one that tells most first. `remedy` is the room where it is put right.
    """

    code: str
    title: str
    text: str
    kind: str = CAUTION
    rig: str = ""
    stop: str = ""
    ref: int | None = None
    refs: tuple[int, ...] = ()
    remedy: str = ""

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
    penalties_db: tuple[tuple[str, Estimate], ...]  # condition, loss: mean over the rigs walked
    frames_per_independent_level: float = 1.0
    law: str = ""  # how the path loses with distance
    break_m: float | None = None
    noise_dbm: float | None = None  # at which thresholds and ranges hold
    condition: str = ""  # in which they hold
    wall_factor: Estimate | None = None  # what drawn walls cost against what is said of them
    # what they cost each rig at the needed distance, along the walked bearings [dB]
    walls_needed_db: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Needed:
    """A rig at the needed distance, with the distance it was read at [m]."""

    distance_m: float
    level_dbm: Estimate | None = None
    in_hand_db: Estimate | None = None
    delivery: Estimate | None = None  # share of frames at a random place


@dataclass(frozen=True, slots=True, kw_only=True)
class LinkReading:
    """One link: a rig, in one direction, at one receiver."""

    rig: str
    direction: str
    receiver: str
    sent: int
    heard: int
    threshold_dbm: Estimate | None
    level_dbm: Estimate | None  # at the centre distance
    loss_range_m: Estimate | None
    in_hand_range_m: Estimate | None
    noise_dbm: float | None
    edge_shown: bool
    edge_bracketed: bool
    extrapolated: bool
    on_stops: StopRanges
    judged: bool = False  # whether the rig is judged by this one


@dataclass(frozen=True, slots=True, kw_only=True)
class RigReading:
    """One rig: counts, the level at half loss, and how far it goes under each rule.

    Threshold, levels and rules on stops are those of its deciding link, which `direction` and
    `receiver` name; `range_words` says what the range is of where a rig has several links.
    """

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
    direction: str = ""
    receiver: str = ""
    range_words: str = ""
    least_words: str = ""  # where no range can be given: what can be said of the loss out there
    farthest_m: float | None = None  # the farthest stop it was walked to

    @property
    def last_heard_m(self) -> float | None:
        """Return the farthest stop where anything arrived [m]."""
        return self.on_stops.last_heard


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """A rig against another [dB], over one link in one condition.

    Margin always, signal on one RSSI scale. `main` marks the row of the deciding link in the
    reference condition. `first_better` is how likely the rig has more margin than the other.
    """

    rig: str
    against: str
    margin_db: Estimate | None
    signal_db: Estimate | None
    direction: str = ""
    receiver: str = ""
    condition: str = ""
    main: bool = True
    first_better: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Exchange:
    """Question and answer of a rig with a receiver: how far both arrive [m]."""

    rig: str
    receiver: str
    range_m: Estimate | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Paired:
    """The same transmissions at two receivers."""

    both: int
    first: int
    second: int
    neither: int
    difference: Estimate  # share heard by the first less that heard by the second
    exact_p: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ReceiverDifference:
    """A receiver against the first of its direction [dB], at equal distance."""

    receiver: str
    against: str
    direction: str
    level_db: Estimate | None
    margin_db: Estimate | None
    paired: Paired | None = None  # where both heard the same transmissions


@dataclass(frozen=True, slots=True, kw_only=True)
class Penalty:
    """What a condition costs a rig: level [dB] and noise [dB], and how far it goes in it [m]."""

    rig: str
    condition: str
    level_db: Estimate | None
    noise_db: Estimate | None
    range_m: Estimate | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PenaltyPair:
    """Two conditions of a rig against each other: what the second gives back of the first [dB]."""

    rig: str
    condition: str
    against: str
    gained_db: Estimate


@dataclass(frozen=True, slots=True, kw_only=True)
class OfVisit:
    """Which visit something is said of; `ref` is the visit as whoever asked knows it."""

    ref: int | None
    rig: str
    stop: str
    condition: str
    direction: str
    receiver: str
    walk: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Flag(OfVisit):
    """Something about a visit that changes how it counts; `window` in shares of its frames."""

    what: str  # interference, change, relayed
    window: tuple[float, float] | None = None
    words: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sector:
    """Stops in one sector [degrees]: mean shadowing there [dB]; above 0 is better than elsewhere."""

    low_deg: float
    high_deg: float
    stops: int
    shadow_db: Estimate


@dataclass(frozen=True, slots=True, kw_only=True)
class Bearings:
    """Whether directions from the fixed end differ: chance of so uneven a spread, and sectors."""

    p: float
    sectors: tuple[Sector, ...]

    @property
    def found(self) -> bool:
        """Tell whether it is a finding."""
        return self.p < 0.01


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """What another prior would make of an answer: the rig, the prior, the range then [m]."""

    rig: str
    prior: str
    range_m: Estimate | None
    shift: float  # in units of the interval's width


@dataclass(frozen=True, slots=True, kw_only=True)
class RssiScale:
    """dB of RSSI for each dB of S/N by type of receiver, and whether levels were brought to it."""

    module: str
    slope: Estimate
    applied: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """How well the model describes the visits, and what moves its answer."""

    visits: int
    outside: int  # whose count lies outside its own 95 % band
    residual_slope_db: Estimate | None  # per factor ten of distance
    spread_ratio: float | None  # of frames in strong visits over weak ones
    rssi_slopes: tuple[RssiScale, ...] = ()
    moves: tuple[Move, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Guidance:
    """Where to stand next, and whether it is enough.

    Half-widths are 95 %, in dB for a difference, else in lg of a range; `curve` gives the one
    expected after a stop at each distance [m].
    """

    verdict: str
    about: str
    in_db: bool
    half_width: float
    half_width_after: float
    next_m: float
    next_label: str
    stops_to_enough: int | None
    sure: float | None  # that the difference is larger than wanted
    sure_before: float | None  # at the look before, with fewer stops
    stops: int
    sentence: str
    curve: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class VisitReading(OfVisit):
    """One visit: what was sent and heard, and its level with and without the lost frames."""

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
    in_hand: Estimate | None = None
    expected_dbm: float | None = None  # by slope and level alone, without what the place adds
    reads_high_db: float = 0.0
    noise_derived: bool = False
    relayed: int = 0
    left_out: int = 0  # frames of a stretch that differs
    passes: int = 1  # goes it was made in


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
    links: tuple[LinkReading, ...] = ()
    exchanges: tuple[Exchange, ...] = ()
    receivers: tuple[ReceiverDifference, ...] = ()
    penalties: tuple[Penalty, ...] = ()
    penalty_pairs: tuple[PenaltyPair, ...] = ()
    flags: tuple[Flag, ...] = ()
    bearings: Bearings | None = None
    check: Check | None = None
    guidance: Guidance | None = None
    served: tuple[Served, ...] = ()

    def of_rig(self, rig: str) -> RigReading | None:
        """Return what is said of a rig, None where it was not walked."""
        return next((one for one in self.rigs if one.rig == rig), None)

    @property
    def main_differences(self) -> tuple[Difference, ...]:
        """Return the differences over the deciding links in the reference condition."""
        return tuple(row for row in self.differences if row.main)
