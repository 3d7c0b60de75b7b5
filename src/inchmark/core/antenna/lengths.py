"""Lengths: wires cut for a frequency, and where the far field begins."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

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


@dataclass(frozen=True, slots=True, kw_only=True)
class Helix:
    """A wire wound on a former, a quarter wave long electrically: height, wire [m], turns, velocity factor."""

    height_m: float
    wire_m: float
    turns: float
    velocity_factor: float
    in_range: bool  # of the formula: N D^2 / lambda of 1/5 at most, N in turns per metre


def quarter_wave_helix(frequency_hz: float, *, diameter_m: float, pitch_m: float) -> Helix:
    """Return the helical quarter wave of a diameter and a pitch, both to the wire's middle [m].

    The wave runs along the helix's axis slower than in air, by 1 / sqrt(1 + 20 (N D)^2.5
    (D / lambda)^0.5) with N turns a metre (Kandoian and Sichak 1953, from memory). A real one is
    lower by its end and its ground: wind long and trim.
    """
    diameter = float(positive("diameter_m", diameter_m))
    pitch = float(positive("pitch_m", pitch_m))
    wave, density = float(wavelength_m(frequency_hz)), 1 / pitch
    slow = 1 / np.sqrt(1 + 20 * (density * diameter) ** 2.5 * np.sqrt(diameter / wave))
    height = float(slow * wave / 4)
    turns = height / pitch
    return Helix(
        height_m=height,
        wire_m=float(turns * np.hypot(np.pi * diameter, pitch)),
        turns=turns,
        velocity_factor=float(slow),
        in_range=density * diameter**2 / wave <= 0.2,
    )


def far_field_distance_m(largest_dimension_m: float, frequency_hz: float) -> float:
    """Return 2 D^2 / lambda [m], where the phase error over the antenna is a sixteenth wave."""
    dimension = float(positive("largest_dimension_m", largest_dimension_m))
    return float(2 * dimension**2 / wavelength_m(frequency_hz))
