"""Coverage of what is said of needed places, over invented studies.

Usage: .venv/bin/python -m bench.places [--studies 200] [--regime ordinary]
Each study has eight places between 60 m and 1.5 km with shadowing and remainder of their own, and each
stop of the walk is a needed place as well. Printed are the shares of true figures within their 95 %
limits (wanted 93 to 97), and a table of reliability: of the places said to meet the rule with so much, how
many do, apart for those the rig stood at, those among the stops, and those outside the walk.
"""

from __future__ import annotations

import argparse
import itertools
from collections import defaultdict
from dataclasses import replace

import numpy as np

from bench.invented import Regime, Truth, invent, regimes
from inchmark.core.interval import Estimate
from inchmark.core.link_model.data import LinkKey
from inchmark.core.normal import ndtr
from inchmark.core.reading.analysis import analyse_visits
from inchmark.core.reading.expected import NeededPlace, PlaceReading
from inchmark.core.reading.places import served_places
from inchmark.core.reading.ranges import deciding
from inchmark.core.reading.reading import Walked

FIXED = (47.0, -22.0)
DISTANCES_M = np.geomspace(60, 1500, 8)
M_PER_DEG = 111_195.0
BESIDE_DEG = 20.0  # off the line of the stops, so that no place falls on one
RULE = 0.9  # share of frames that must arrive
BINS = (0.0, 0.05, 0.2, 0.5, 0.8, 0.9, 0.95, 1.0001)
KINDS = ("walked", "among the stops", "extrapolated")


def inside(estimate: Estimate, true: float) -> bool:
    """Tell whether a true figure lies within the limits."""
    return estimate.low - 1e-9 <= true <= estimate.high + 1e-9


def spot(metres: float, bearing_deg: float = 0.0) -> tuple[float, float]:
    """Return where a place so far from the fixed end lies [degrees]."""
    turn = np.radians(bearing_deg)
    east = metres * np.sin(turn) / np.cos(np.radians(FIXED[0]))
    return FIXED[0] + float(metres * np.cos(turn)) / M_PER_DEG, FIXED[1] + float(east) / M_PER_DEG


def located(walked: Walked) -> Walked:
    """Return a walk whose stops have coordinates."""
    away = {visit.key.stop: visit.distance_m for visit in walked.visits}
    stops = {name: replace(one, spot=spot(away[name])) for name, one in walked.stops.items()}
    return replace(walked, stops=stops)


class Tally:
    """What came of the studies: figures within limits, and chances beside what was so."""

    def __init__(self, regime: Regime) -> None:
        self.regime = regime
        self.hits: dict[str, list[bool]] = defaultdict(list)
        self.said: dict[str, list[tuple[float, bool]]] = defaultdict(list)

    def study(self, seed: int) -> None:
        """Add what came of one study."""
        walked, truth = invent(self.regime, seed)
        walked = located(walked)
        analysis = analyse_visits(walked)
        by = {rig: deciding(analysis, rig) for rig in analysis.rigs}
        far = [place(f"{d:.0f} m", float(d), BESIDE_DEG) for d in DISTANCES_M]
        away = {visit.key.stop: visit.distance_m for visit in walked.visits}
        stood = [place(name, metres) for name, metres in away.items()]
        random = np.random.default_rng([7, seed])
        shadow = random.normal(0, self.regime.sigma_s, len(far))
        for one in served_places(analysis, by, [*far, *stood], FIXED):
            if one.count is None:
                continue
            link = by[one.rig].link
            own = shadow + random.normal(0, self.regime.sigma_e, len(far))
            met = [
                self.unwalked(row, link, truth, float(more), float(random.normal()))
                for row, more in zip(one.places, own, strict=False)
            ]
            met += [self.stood(row, link, truth) for row in one.places[len(far) :]]
            self.hits["places served"].append(inside(one.count, sum(met)))

    def unwalked(
        self, row: PlaceReading, link: LinkKey, truth: Truth, more_db: float, jitter: float
    ) -> bool:
        """Add a place nobody stood at; return whether the rule holds there."""
        r = self.regime
        level = truth.level[link] - 10 * r.exponent * np.log10(row.distance_m / 150.0) + more_db
        over = level - truth.threshold[link] + r.sigma_t * jitter
        share = (1 - r.floor) * float(ndtr(over / np.hypot(r.sigma_f, r.waterfall)))
        if row.level_dbm:
            self.hits["level"].append(inside(row.level_dbm, level))
        if row.in_hand_db:
            self.hits["in hand"].append(inside(row.in_hand_db, over))
        return self.judged(row, KINDS[2] if row.extrapolated else KINDS[1], share)

    def stood(self, row: PlaceReading, link: LinkKey, truth: Truth) -> bool:
        """Add a stop as a place; return whether the rule holds there."""
        lost = next(
            loss
            for key, loss in truth.visit_loss.items()
            if (key.rig, key.direction, key.receiver)
            == (link.rig, link.direction, link.receiver) and key.stop == row.place
        )  # fmt: skip
        return self.judged(row, KINDS[0] if row.measured_at else KINDS[1], 1 - lost)

    def judged(self, row: PlaceReading, kind: str, share: float) -> bool:
        """Add what was said of a place's share of frames and its chance."""
        if row.share:
            self.hits[f"share of frames, {kind}"].append(inside(row.share, share))
        if row.meets:
            self.said[kind].append((row.meets.estimate, share >= RULE))
        return share >= RULE

    def show(self) -> None:
        """Print coverage and the table of reliability."""
        for name, one in sorted(self.hits.items()):
            print(f"{name}: {100 * np.mean(one):.1f} % of {len(one)} within 95 % limits")
        for kind in KINDS:
            print(kind)
            for low, high in itertools.pairwise(BINS):
                own = [(p, met) for p, met in self.said[kind] if low <= p < high]
                if own:
                    p, met = np.mean(own, axis=0)
                    print(
                        f"  said {100 * low:.0f} to {100 * min(high, 1):.0f} %: {100 * p:.0f} % on average, {100 * met:.0f} % of {len(own)} do"
                    )


def place(name: str, metres: float, bearing_deg: float = 0.0) -> NeededPlace:
    """Return a needed place so far from the fixed end."""
    return NeededPlace(name=name, spot=spot(metres, bearing_deg), distance_m=metres)


def main() -> None:
    """Print coverage and the table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--studies", type=int, default=100)
    parser.add_argument("--regime", default="ordinary")
    asked = parser.parse_args()
    tally = Tally(regimes()[asked.regime])
    for seed in range(asked.studies):
        tally.study(seed)
    tally.show()


if __name__ == "__main__":
    main()
