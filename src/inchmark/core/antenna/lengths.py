"""Lengths: wires cut for a frequency, and where the far field begins."""

from __future__ import annotations

from inchmark.core.checks import positive, within
from inchmark.core.propagation.free_space import wavelength_m

WAVE_SHARES = {"quarter": 0.25, "half": 0.5, "five-eighths": 0.625}


def wire_length_m(
    frequency_hz: float, *, wave: str = "quarter", velocity_factor: float = 1.0
) -> float:
    """Return the length [m] of a quarter, half or five-eighths wave wire.

    The velocity factor (0 to 1) is about 0.95 for bare thin wire and less in insulation (common
    practice): cut long and trim.
    """
    if wave not in WAVE_SHARES:
        raise ValueError(f"wave={wave!r} must be one of {', '.join(WAVE_SHARES)}")
    within("velocity_factor", velocity_factor, 0.1, 1.0)
    return float(WAVE_SHARES[wave] * velocity_factor * wavelength_m(frequency_hz))


def far_field_distance_m(largest_dimension_m: float, frequency_hz: float) -> float:
    """Return 2 D^2 / lambda [m], where the phase error over the antenna is a sixteenth wave."""
    dimension = float(positive("largest_dimension_m", largest_dimension_m))
    return float(2 * dimension**2 / wavelength_m(frequency_hz))
