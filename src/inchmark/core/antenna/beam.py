"""Gain against beam width, what pointing beside the axis costs, and how wide a beam falls.

Widths are between half-power points in the planes of the electric and magnetic field. All of it is
common practice: good within 1.5 dB for a single main lobe, and no word about side lobes.
"""

from __future__ import annotations

import math

from inchmark.core.checks import positive, within

SPHERE_DEG2 = 41_253.0  # a sphere in square degrees: a beam filled evenly, an upper figure
PRACTICE_DEG2 = 32_400.0  # the same with some 79 % efficiency, usual for dishes and arrays


def beam_gain_dbi(width_e_deg: float, width_h_deg: float, *, deg2: float = PRACTICE_DEG2) -> float:
    """Return the gain [dBi] of a beam of two half-power widths [degrees]."""
    widths = float(positive("width_e_deg", width_e_deg) * positive("width_h_deg", width_h_deg))
    return 10 * math.log10(float(positive("deg2", deg2)) / widths)


def pointing_loss_db(
    error_e_deg: float, width_e_deg: float, error_h_deg: float = 0.0, width_h_deg: float = 360.0
) -> float:
    """Return what pointing beside the axis costs [dB]: 12 (error/width)² in each plane.

    3 dB at half the width. Main lobe only: an error beyond the width says less than the formula.
    """
    share_e = abs(error_e_deg) / float(positive("width_e_deg", width_e_deg))
    share_h = abs(error_h_deg) / float(positive("width_h_deg", width_h_deg))
    return 12 * (share_e**2 + share_h**2)


def beam_across_m(width_deg: float, distance_m: float) -> float:
    """Return how wide a beam of a half-power width [degrees, under 180] is at a distance [m]."""
    half = math.radians(float(within("width_deg", width_deg, 0, math.nextafter(180, 0))) / 2)
    return 2 * float(positive("distance_m", distance_m)) * math.tan(half)
