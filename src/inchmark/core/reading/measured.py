"""What a reading starts from: visits with their distances, and what is known of rigs and stops."""

from __future__ import annotations

from dataclasses import dataclass, field

from inchmark.core.link_model.data import RigPrior
from inchmark.core.reception.visit import VisitKey, VisitSummary


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
    """How a stop's distance was measured: method, +- [m], and the geodesic beside it [m]."""

    name: str = ""
    method: str = ""
    plus_minus_m: float | None = None
    geodesic_m: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class RigFacts:
    """A rig's prior, the named things a comparison would have to hold the same, and its level.

    `reference_dbm` is the level on the RSSI's scale with no path between [dBm].
    """

    name: str = ""
    prior: RigPrior = field(default_factory=RigPrior)
    varied: tuple[tuple[str, str], ...] = ()  # (what, value)
    reference_dbm: float | None = None
