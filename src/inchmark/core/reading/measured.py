"""What a reading starts from: visits with their distances, and what is known of rigs and stops."""

from __future__ import annotations

from dataclasses import dataclass, field

from inchmark.core.link_model.data import RigPrior
from inchmark.core.reception.visit import VisitKey, VisitSummary


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredVisit:
    """One visit: who, where, how far [m], and its figures."""

    key: VisitKey
    distance_m: float
    summary: VisitSummary


@dataclass(frozen=True, slots=True, kw_only=True)
class StopFacts:
    """How a stop's distance was measured.

    Method, +- [m], and the geodesic beside a typed one [m].
    """

    name: str = ""
    method: str = ""
    plus_minus_m: float | None = None
    geodesic_m: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class RigFacts:
    """A rig's prior, and the named things a comparison would have to hold the same."""

    name: str = ""
    prior: RigPrior = field(default_factory=RigPrior)
    varied: tuple[tuple[str, str], ...] = ()  # (what, value)
