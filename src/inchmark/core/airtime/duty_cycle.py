"""Duty cycle: share of any hour a transmitter may be on (ETSI EN 300 220-1, recalled)."""

from __future__ import annotations

import math
from fractions import Fraction

from inchmark.core.checks import positive, within

HOUR_S = 3600


def messages_per_hour(airtime_s: float, duty_cycle_percent: float) -> int:
    """Return the whole messages one hour allows, from an exact ratio (never 4.9999)."""
    positive("airtime_s", airtime_s)
    within("duty_cycle_percent", duty_cycle_percent, 0, 100)
    allowed = Fraction(str(duty_cycle_percent)) / 100 * HOUR_S
    return math.floor(allowed / Fraction(f"{airtime_s:.12g}"))


def min_interval_s(airtime_s: float, duty_cycle_percent: float) -> float:
    """Return the shortest steady interval between starts of frames [s]."""
    positive("airtime_s", airtime_s)
    positive("duty_cycle_percent", duty_cycle_percent)
    return airtime_s * 100 / duty_cycle_percent
