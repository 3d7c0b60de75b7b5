"""Power and duty cycle held against a table of limits. The table helps to look; it decides nothing.

The rules of the place count, and licensed people decide.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from inchmark.core.constants import DIPOLE_GAIN_DBI

ERP, EIRP, CONDUCTED = "e.r.p.", "e.i.r.p.", "conducted"
KINDS = (ERP, EIRP, CONDUCTED)


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """One row: band [Hz], power [dBm] and its kind, duty cycle [%] or None, access in words."""

    region: str
    low_hz: float
    high_hz: float
    power_dbm: float
    kind: str
    duty_cycle_percent: float | None
    access: str
    document: str
    date: str
    from_memory: bool
    free_gain_dbi: float | None = None  # conducted limits: gain above this comes off the power
    least_bandwidth_hz: float = 0.0

    @property
    def band(self) -> str:
        """Return the band in MHz."""
        return f"{self.low_hz / 1e6:g}–{self.high_hz / 1e6:g} MHz"

    def covers(self, frequency_hz: float, occupied_hz: float) -> bool:
        """Tell whether a channel lies in the band, all of it."""
        half = occupied_hz / 2
        inside = self.low_hz <= frequency_hz - half and frequency_hz + half <= self.high_hz
        return inside and occupied_hz >= self.least_bandwidth_hz


@dataclass(frozen=True, slots=True, kw_only=True)
class Emission:
    """What an end sends: channel [Hz], power at the antenna's connector [dBm], gain [dBi]."""

    frequency_hz: float
    occupied_hz: float
    conducted_dbm: float
    gain_dbi: float

    @property
    def eirp_dbm(self) -> float:
        """Return the power radiated against an isotropic radiator [dBm]."""
        return self.conducted_dbm + self.gain_dbi

    @property
    def erp_dbm(self) -> float:
        """Return the power radiated against a half-wave dipole [dBm]."""
        return self.eirp_dbm - DIPOLE_GAIN_DBI

    def power_dbm(self, limit: Limit) -> float:
        """Return the power as a limit counts it [dBm]."""
        if limit.kind == ERP:
            return self.erp_dbm
        if limit.kind == EIRP:
            return self.eirp_dbm
        over = max(self.gain_dbi - (limit.free_gain_dbi or 0.0), 0.0)
        return self.conducted_dbm + over


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """An emission against one row: how far under the limit [dB], and the duty cycle's fit."""

    limit: Limit
    power_dbm: float
    duty_cycle_percent: float

    @property
    def left_db(self) -> float:
        """Return how far the power lies under the limit [dB]; below 0 it is over."""
        return self.limit.power_dbm - self.power_dbm

    @property
    def power_fits(self) -> bool:
        """Tell whether the power is within the limit; a hundredth of a dB is rounding."""
        return self.left_db >= -0.005

    @property
    def duty_fits(self) -> bool:
        """Tell whether the duty cycle is within the limit."""
        allowed = self.limit.duty_cycle_percent
        return allowed is None or self.duty_cycle_percent <= allowed

    @property
    def fits(self) -> bool:
        """Tell whether both are."""
        return self.power_fits and self.duty_fits


def checks(
    limits: Sequence[Limit], emission: Emission, *, region: str, duty_cycle_percent: float
) -> list[Check]:
    """Return the emission against every row of a region that covers it, those that fit first."""
    found = [
        Check(
            limit=limit,
            power_dbm=emission.power_dbm(limit),
            duty_cycle_percent=duty_cycle_percent,
        )
        for limit in limits
        if limit.region == region and limit.covers(emission.frequency_hz, emission.occupied_hz)
    ]
    return sorted(found, key=lambda check: (not check.fits, -check.left_db))
