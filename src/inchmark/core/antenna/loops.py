"""Loops and rods that couple: how much, and what stands in for their gain in a budget.

Two tuned loops on one axis couple by k = r1^2 r2^2 / (sqrt(r1 r2) (d^2 + R^2)^(3/2)), R the larger
radius (approximation common for identification systems, from memory); turns raise inductance and
resistance alike and cancel. Tuned to each other they hand over k^2 Q1 Q2 of the power, where little
is handed over. Far from both that falls by 60 dB for ten times the distance.
"""

from __future__ import annotations

import numpy as np

from inchmark.core.checks import positive
from inchmark.core.propagation.free_space import free_space_loss_db
from inchmark.core.propagation.inductive import NEAR_DB_PER_DECADE, near_field_end_m

USUAL_Q = 30.0  # of a tuned loop with its load, common practice


def coupling(distance_m: float, radius1_m: float, radius2_m: float) -> float:
    """Return the coupling factor of two loops on one axis, 0 to 1."""
    d = float(positive("distance_m", distance_m))
    r1, r2 = (float(positive("radius", one)) for one in (radius1_m, radius2_m))
    k = r1**2 * r2**2 / (np.sqrt(r1 * r2) * (d**2 + max(r1, r2) ** 2) ** 1.5)
    return float(min(k, 1.0))


def handed_over_db(k: float, q1: float = USUAL_Q, q2: float = USUAL_Q) -> float:
    """Return the power handed over [dB], 0 at most: 10 log10(k^2 Q1 Q2)."""
    share = k**2 * float(positive("q1", q1)) * float(positive("q2", q2))
    return float(10 * np.log10(min(max(share, 1e-30), 1.0)))


def loop_gain_dbi(radius_m: float, frequency_hz: float, q: float = USUAL_Q) -> float:
    """Return what stands in for a loop's gain [dBi] beside the cube law of the near field.

    So that the law's loss less both gains is the power two loops hand over, far from both: half of
    what the law has at 1 m, 30 log10 of the radius [m] and 10 log10 of the Q.
    """
    end = near_field_end_m(frequency_hz)
    at_metre = float(free_space_loss_db(end, frequency_hz)) - NEAR_DB_PER_DECADE * float(
        np.log10(end)
    )
    radius, quality = positive("radius_m", radius_m), positive("q", q)
    return float(at_metre / 2 + 30 * np.log10(radius) + 10 * np.log10(quality))
