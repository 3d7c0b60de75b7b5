"""A rig held against the table of limits, at both ends."""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.budget import End, connector_power_dbm
from inchmark.core.limits import Check, Emission, checks
from inchmark.formats.limits import limits
from inchmark.shelf.adapters.ends import Own, carried_end, fixed_end
from inchmark.shelf.adapters.settings import radio_setting
from inchmark.shelf.models import Rig

__all__ = ["Duty", "LegalCheck", "duty_of", "legal_checks", "limits"]


TYPED = "as typed"


@dataclass(frozen=True, slots=True, kw_only=True)
class LegalCheck:
    """One end against the limits: what it radiates, how much it is on, and the rows it meets."""

    end: str
    emission: Emission
    used_percent: float  # of the time on air, at one message every period
    checks: list[Check]

    @property
    def best(self) -> Check | None:
        """Return the row that fits best, None where no row covers the channel."""
        return self.checks[0] if self.checks else None

    @property
    def fits(self) -> bool:
        """Tell whether some row is met."""
        return bool(self.checks and self.checks[0].fits)


@dataclass(frozen=True, slots=True, kw_only=True)
class Duty:
    """The share of the time a rig may be on air [%], and what says so."""

    percent: float
    source: str


def duty_of(rig: Rig, region: str) -> Duty:
    """Return what the carried end may send: as typed, or less if its sub-band allows less.

    Of the rows whose power it keeps the most generous counts; where none covers it, what is typed.
    """
    rows = [one.limit for one in legal_checks(rig, region)[0].checks if one.power_fits]
    allowed = [
        (100.0 if row.duty_cycle_percent is None else row.duty_cycle_percent, row.band)
        for row in rows
    ]
    percent, band = max(allowed, default=(100.0, ""))
    if percent < rig.duty_cycle_percent:
        return Duty(percent=percent, source=band)
    return Duty(percent=rig.duty_cycle_percent, source=TYPED)


def legal_checks(rig: Rig, region: str, own: Own | None = None) -> list[LegalCheck]:
    """Return both ends of a rig against the limits of a region."""
    ends = (("carried end", carried_end(rig, own)), ("fixed end", fixed_end(rig, own)))
    return [_check(rig, name, end, region) for name, end in ends]


def _check(rig: Rig, name: str, end: End, region: str) -> LegalCheck:
    radio = radio_setting(rig)
    emission = Emission(
        frequency_hz=rig.frequency_hz,
        occupied_hz=radio.occupied_hz,
        conducted_dbm=connector_power_dbm(end),
        gain_dbi=end.antenna_gain_dbi,
    )
    used = min(100 * radio.airtime_s / rig.period_s, 100.0)
    found = checks(limits(), emission, region=region, duty_cycle_percent=used)
    return LegalCheck(end=name, emission=emission, used_percent=used, checks=found)
