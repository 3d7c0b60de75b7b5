"""Energy: charge of one message, average current, battery life.

Self-discharge is told in two ways: as a steady current on the nominal capacity, or as an
exponential decay of what remains; the unusable rest stays at the end in both.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import positive, within

HOURS_PER_YEAR = 8760.0
UAH_PER_MC = 1 / 3.6
SELF_DISCHARGE_MODELS = ("constant_current", "exponential")


@dataclass(frozen=True, slots=True, kw_only=True)
class Phase:
    """One part of a message: how long [s], how much current [A]."""

    duration_s: float
    current_a: float

    def __post_init__(self) -> None:
        """Refuse times and currents below zero."""
        within("duration_s", self.duration_s, 0, np.inf)
        within("current_a", self.current_a, 0, np.inf)


@dataclass(frozen=True, slots=True, kw_only=True)
class Load:
    """A message sent every period [s], the sleep current [A] flowing for the rest of it."""

    phases: Sequence[Phase]
    sleep_current_a: float
    period_s: float

    def __post_init__(self) -> None:
        """Refuse a message longer than its period."""
        positive("period_s", self.period_s)
        within("sleep_current_a", self.sleep_current_a, 0, np.inf)
        if self.active_s > self.period_s:
            raise ValueError(
                f"period_s={self.period_s!r} must hold the {self.active_s:g} s of a message"
            )

    @property
    def active_s(self) -> float:
        """Return how long a message takes [s]."""
        return float(sum(phase.duration_s for phase in self.phases))

    @property
    def active_charge_c(self) -> float:
        """Return the charge of one message without sleep [C]."""
        return float(sum(phase.duration_s * phase.current_a for phase in self.phases))

    @property
    def average_current_a(self) -> float:
        """Return the average current over a period [A]."""
        rest = self.period_s - self.active_s
        return (self.active_charge_c + self.sleep_current_a * rest) / self.period_s

    def active_energy_j(self, supply_v: float) -> float:
        """Return the energy of one message [J] at a supply [V]."""
        return self.active_charge_c * float(positive("supply_v", supply_v))


@dataclass(frozen=True, slots=True, kw_only=True)
class Battery:
    """Nominal capacity [Ah], usable share (0 to 1), self-discharge per year (share, 0 to 1)."""

    capacity_ah: float
    usable_share: float = 0.85
    self_discharge_per_year: float = 0.01
    model: str = "constant_current"

    def __post_init__(self) -> None:
        """Refuse a battery that holds nothing or an unknown way of losing it."""
        positive("capacity_ah", self.capacity_ah)
        within("usable_share", self.usable_share, 1e-6, 1)
        within("self_discharge_per_year", self.self_discharge_per_year, 0, 0.99)
        if self.model not in SELF_DISCHARGE_MODELS:
            raise ValueError(
                f"model={self.model!r} must be one of {', '.join(SELF_DISCHARGE_MODELS)}"
            )

    def life_h(self, average_current_a: float) -> float:
        """Return how long the battery lasts [h] at an average current [A] greater than 0."""
        current = float(positive("average_current_a", average_current_a))
        if self.model == "constant_current":
            lost = self.capacity_ah * self.self_discharge_per_year / HOURS_PER_YEAR
            return self.capacity_ah * self.usable_share / (current + lost)
        rate = -np.log1p(-self.self_discharge_per_year) / HOURS_PER_YEAR
        if rate == 0:
            return self.capacity_ah * self.usable_share / current
        start = rate * self.capacity_ah + current
        end = rate * self.capacity_ah * (1 - self.usable_share) + current
        return float(np.log(start / end) / rate)
