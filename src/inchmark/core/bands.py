"""Bands that low-power radios are commonly used in, for defaults only; no limit is read from here.

Edges from memory: the short-range bands of ERC Recommendation 70-03 and of 47 CFR 15.
"""

from __future__ import annotations

from dataclasses import dataclass

SWEPT_SHARE = 0.08  # of the centre to each side: wide enough to see a detuned antenna


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """A band [Hz]."""

    low_hz: float
    high_hz: float

    @property
    def centre_hz(self) -> float:
        """Return its middle [Hz]."""
        return (self.low_hz + self.high_hz) / 2

    def around(self) -> Band:
        """Return what to sweep so that an antenna of this band is seen with room to both sides."""
        return Band(
            low_hz=round(self.centre_hz * (1 - SWEPT_SHARE), -6),
            high_hz=round(self.centre_hz * (1 + SWEPT_SHARE), -6),
        )


BANDS = (
    Band(low_hz=169.4e6, high_hz=169.8125e6),
    Band(low_hz=433.05e6, high_hz=434.79e6),
    Band(low_hz=863e6, high_hz=870e6),
    Band(low_hz=902e6, high_hz=928e6),
    Band(low_hz=2400e6, high_hz=2483.5e6),
)
FALLBACK = BANDS[2]
NARROW_SHARE = 0.004


def band_of(frequency_hz: float) -> Band:
    """Return the common band a frequency lies in, a narrow one around it where it lies in none."""
    for band in BANDS:
        if band.low_hz <= frequency_hz <= band.high_hz:
            return band
    room = NARROW_SHARE * frequency_hz
    return Band(low_hz=frequency_hz - room, high_hz=frequency_hz + room)
