"""Two loops that couple: how much of the power crosses, and how far it is enough."""

from __future__ import annotations

from inchmark.core.antenna.loops import coupling, handed_over_db
from inchmark.core.propagation.inductive import NEAR_DB_PER_DECADE
from inchmark.core.wording import decibels, distance, level, number
from inchmark.workbench.figures.answers import PRACTICE, Answers, Line, Reach

SPREAD_DB = 6.0  # of aim, tuning and what is near, common practice


def inductive_answers(
    *,
    distance_m: float,
    radius1_m: float,
    radius2_m: float,
    quality1: float,
    quality2: float,
    power_dbm: float,
    needs_dbm: float,
) -> Answers:
    """Return coupling, the power handed over at a distance [m], and the read range for a need [dBm]."""
    k = coupling(distance_m, radius1_m, radius2_m)
    over = handed_over_db(k, quality1, quality2)
    arrives = power_dbm + over

    def reads_to(spare_db: float) -> float:
        return _reach(power_dbm - needs_dbm + spare_db, radius1_m, radius2_m, quality1 * quality2)

    middle, low, high = reads_to(0.0), reads_to(-SPREAD_DB), reads_to(SPREAD_DB)
    lines = [
        Line(what="coupling factor", value=f"{k:.3g}", formula="r1² r2² / (√(r1 r2) (d² + R²)^1.5), on one axis", source="approximation, from memory"),
        Line(what="handed over", value=f"{decibels(over)}, {level(arrives)} arrive", formula="10 lg(k² Q1 Q2), turns cancel", source="weak coupling, textbook"),
        Line(what="enough to", value=f"{distance(middle)} ({distance(low)} to {distance(high)} with ±{number(SPREAD_DB)} dB of aim and tuning)", formula="the distance at which what arrives is what is needed", source=PRACTICE),
        Line(what="ten times the distance", value=f"costs {number(NEAR_DB_PER_DECADE)} dB", formula="field falls with d³", source="near field of a small loop, textbook"),
    ]  # fmt: skip
    says = ["A loop turned across the other couples to nothing; metal near takes Q and detunes. Field strengths have limits of their own: look them up, and keep clear of implants."]  # fmt: skip
    return Answers(lines=lines, says=says, reach=Reach(low_m=low, middle_m=middle, high_m=high))


def _reach(allowed_db: float, radius1_m: float, radius2_m: float, q1q2: float) -> float:
    """Return the distance [m] at which a loss is used up; 0.1 mm where it never is enough."""
    low, high = 1e-4, 1e3
    for _ in range(80):
        middle = (low * high) ** 0.5
        enough = -handed_over_db(coupling(middle, radius1_m, radius2_m), q1q2, 1.0) <= allowed_db
        low, high = (middle, high) if enough else (low, middle)
    return low
