"""Coverage of what is said of places nobody stood at, over invented studies.

Usage: .venv/bin/python -m bench.places [--studies 100] [--regime ordinary]
Each study has eight places between 60 m and 1.5 km with shadowing and remainder of their own. Printed are
the shares of true figures within their 95 % limits (wanted 93 to 97), and how sure the probabilities are:
of the places said to meet the rule with 0 to 20 %, 20 to 80 % and 80 to 100 %, how many do.
"""

from __future__ import annotations

import argparse

import numpy as np

from bench.invented import invent, regimes
from inchmark.core.normal import ndtr
from inchmark.core.reading.analysis import analyse_visits
from inchmark.core.reading.expected import NeededPlace
from inchmark.core.reading.places import served_places
from inchmark.core.reading.ranges import deciding

FIXED = (47.0, -22.0)
DISTANCES_M = np.geomspace(60, 1500, 8)
M_PER_DEG = 111_195.0


def inside(estimate, true: float) -> bool:
    """Tell whether a true figure lies within the limits."""
    return estimate.low - 1e-9 <= true <= estimate.high + 1e-9


def study(regime, seed: int, hits: dict[str, list[bool]], said: list[tuple[float, bool]]) -> None:
    """Add what came of one study."""
    walked, truth = invent(regime, seed)
    analysis = analyse_visits(walked)
    by = {rig: deciding(analysis, rig) for rig in analysis.rigs}
    places = [
        NeededPlace(name=f"{d:.0f}", spot=(FIXED[0] + d / M_PER_DEG, FIXED[1]), distance_m=float(d))
        for d in DISTANCES_M
    ]
    random = np.random.default_rng([7, seed])
    shadow = random.normal(0, regime.sigma_s, len(places))
    for one in served_places(analysis, by, places, FIXED):
        if one.count is None:
            continue
        link, met = by[one.rig].link, 0
        own = shadow + random.normal(0, regime.sigma_e, len(places))
        for row, more in zip(one.places, own, strict=True):
            loss = 10 * regime.exponent * np.log10(row.distance_m / 150.0)
            level = truth.level[link] - loss + more
            over = level - truth.threshold[link] + random.normal(0, regime.sigma_t)
            share = (1 - regime.floor) * float(
                ndtr(over / np.hypot(regime.sigma_f, regime.waterfall))
            )
            hits["level"].append(inside(row.level_dbm, level))
            hits["in hand"].append(inside(row.in_hand_db, over))
            hits["share of frames"].append(inside(row.share, share))
            said.append((row.meets.estimate, share >= 0.9))
            met += share >= 0.9
        hits["places served"].append(inside(one.count, met))


def main() -> None:
    """Print the table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--studies", type=int, default=100)
    parser.add_argument("--regime", default="ordinary")
    asked = parser.parse_args()
    hits: dict[str, list[bool]] = {
        name: [] for name in ("level", "in hand", "share of frames", "places served")
    }
    said: list[tuple[float, bool]] = []
    for seed in range(asked.studies):
        study(regimes()[asked.regime], seed, hits, said)
    for name, one in hits.items():
        print(f"{name}: {100 * np.mean(one):.1f} % of {len(one)} within 95 % limits")
    for low, high in ((0, 0.2), (0.2, 0.8), (0.8, 1.01)):
        own = [(p, met) for p, met in said if low <= p < high]
        if own:
            p, met = np.mean(own, axis=0)
            print(f"said {100 * p:.0f} % on average, {100 * met:.0f} % of {len(own)} do")


if __name__ == "__main__":
    main()
