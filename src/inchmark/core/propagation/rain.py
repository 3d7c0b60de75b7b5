"""What rain takes from a path: ITU-R P.838-3, equations 1 to 5 with the constants of tables 1 to 4.

Stated from 1 to 1000 GHz. Below some 3 GHz it is hundredths of a dB per km in any rain, so no budget
of this program counts it; that it is negligible is what there is to say.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from inchmark.core.checks import positive, within

FROM_HZ, TO_HZ = 1e9, 1e12
Curve = tuple[tuple[tuple[float, float, float], ...], float, float]  # (a, b, c) each, m, c
_K_ACROSS: Curve = (
    (
        (-5.33980, -0.10008, 1.13098),
        (-0.35351, 1.26970, 0.45400),
        (-0.23789, 0.86036, 0.15354),
        (-0.94158, 0.64552, 0.16817),
    ),
    -0.18961,
    0.71147,
)
_K_UPRIGHT: Curve = (
    (
        (-3.80595, 0.56934, 0.81061),
        (-3.44965, -0.22911, 0.51059),
        (-0.39902, 0.73042, 0.11899),
        (0.50167, 1.07319, 0.27195),
    ),
    -0.16398,
    0.63297,
)
_ALPHA_ACROSS: Curve = (
    (
        (-0.14318, 1.82442, -0.55187),
        (0.29591, 0.77564, 0.19822),
        (0.32177, 0.63773, 0.13164),
        (-5.37610, -0.96230, 1.47828),
        (16.1721, -3.29980, 3.43990),
    ),
    0.67849,
    -1.95537,
)
_ALPHA_UPRIGHT: Curve = (
    (
        (-0.07771, 2.33840, -0.76284),
        (0.56727, 0.95545, 0.54039),
        (-0.20238, 1.14520, 0.26809),
        (-48.2991, 0.791669, 0.116226),
        (48.5833, 0.791459, 0.116479),
    ),
    -0.053739,
    0.83433,
)


@dataclass(frozen=True, slots=True)
class RainLaw:
    """Attenuation k R^alpha [dB/km] of a rain rate R [mm/h]."""

    k: float
    alpha: float

    def attenuation_db_per_km(self, rate_mm_per_h: float) -> float:
        """Return what rain of a rate [mm/h], 0 and up, takes from a kilometre [dB]."""
        return float(self.k * float(within("rate_mm_per_h", rate_mm_per_h, 0, 1e4)) ** self.alpha)


def rain_law(frequency_hz: float, *, elevation_deg: float = 0.0, tilt_deg: float = 90.0) -> RainLaw:
    """Return the law of a frequency, the path's elevation and the polarisation's tilt.

    A tilt of 0 degrees is horizontal, 90 vertical, 45 circular.
    """
    f = float(positive("frequency_hz", frequency_hz)) / 1e9
    across, upright = 10 ** _curve(_K_ACROSS, f), 10 ** _curve(_K_UPRIGHT, f)
    alpha_across, alpha_upright = _curve(_ALPHA_ACROSS, f), _curve(_ALPHA_UPRIGHT, f)
    turned = math.cos(math.radians(elevation_deg)) ** 2 * math.cos(2 * math.radians(tilt_deg))
    k = (across + upright + (across - upright) * turned) / 2
    weighted = across * alpha_across, upright * alpha_upright
    alpha = (sum(weighted) + (weighted[0] - weighted[1]) * turned) / (2 * k)
    return RainLaw(k, alpha)


def rain_holds_at(frequency_hz: float) -> bool:
    """Tell whether the law is stated for a frequency; elsewhere it is extrapolated."""
    return FROM_HZ <= frequency_hz <= TO_HZ


def _curve(curve: Curve, ghz: float) -> float:
    bumps, slope, offset = curve
    lg = math.log10(ghz)
    return sum(a * math.exp(-(((lg - b) / c) ** 2)) for a, b, c in bumps) + slope * lg + offset
