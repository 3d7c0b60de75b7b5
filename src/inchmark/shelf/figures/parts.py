"""How long to cut an antenna that is a wire."""

from __future__ import annotations

from dataclasses import dataclass

from inchmark.core.antenna.lengths import wire_length_m
from inchmark.shelf.models import Antenna

CUT_LONG = 1.03  # common practice: 3 % to trim away


@dataclass(frozen=True, slots=True, kw_only=True)
class WireLength:
    """A wire's length [m]: cut it long, then trim to the other."""

    cut_m: float
    final_m: float


def wire_lengths(antenna: Antenna) -> WireLength | None:
    """Return the length to cut for an antenna that is a wire; None for others."""
    if antenna.type != "wire" or antenna.cut_for_hz is None:
        return None
    final = wire_length_m(
        antenna.cut_for_hz, wave=antenna.wave, velocity_factor=antenna.velocity_factor
    )
    return WireLength(cut_m=final * CUT_LONG, final_m=final)
