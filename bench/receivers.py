"""Reliability of what is said of receivers elsewhere, masts and places moved, over invented studies.

Usage: .venv/bin/python -m bench.receivers [--studies 100]
Each study is that of `bench.places`; a second receiver stands 500 m from the fixed end, off the walk. Its paths
have the true slope and a shadowing of their own. A mast shifts every level by 6 dB. Printed is, of the places
said to meet the rule with so much, how many do: heard by the other receiver, and with the mast.
"""

from __future__ import annotations

import argparse
import itertools
from collections import defaultdict

import numpy as np

from bench.invented import invent, regimes
from bench.places import BESIDE_DEG, BINS, DISTANCES_M, FIXED, RULE, located, place, spot
from inchmark.core.deciding.effects import Spots, meets_from
from inchmark.core.geodesy import Place, distances_m
from inchmark.core.normal import ndtr
from inchmark.core.reading.analysis import analyse_visits
from inchmark.core.reading.place_draws import PlaceDraws
from inchmark.core.reading.places import served_places
from inchmark.core.reading.ranges import deciding

OTHER = spot(500.0, 75.0)
MAST_DB = 6.0


def study(name: str, seed: int, said: dict[str, list[tuple[float, bool]]]) -> None:
    """Add what came of one study."""
    regime = regimes()[name]
    walked, truth = invent(regime, seed)
    analysis = analyse_visits(located(walked))
    by = {rig: deciding(analysis, rig) for rig in analysis.rigs}
    far = [place(f"{d:.0f} m", float(d), BESIDE_DEG) for d in DISTANCES_M]
    lat, lon = zip(*(one.spot for one in far if one.spot), strict=True)
    away = distances_m(Place(lat_deg=OTHER[0], lon_deg=OTHER[1]), lat, lon)
    random = np.random.default_rng([9, seed])
    here, there = (random.normal(0, regime.sigma_s, len(far)) for _ in range(2))
    spots = Spots(
        nearer_db=10 * np.log10(DISTANCES_M / away)[None, :],
        fixed_db=np.zeros((1, len(far))),
        fewer_walls_db=np.zeros((1, len(far))),
    )
    for one in served_places(analysis, by, far, FIXED):
        draws = PlaceDraws.from_kept(one.drawn)
        if draws is None:
            continue
        link = by[one.rig].link
        level = truth.level[link] - truth.threshold[link]
        own = random.normal(0, np.hypot(regime.sigma_e, regime.sigma_t), (2, len(far)))
        slope = 10 * regime.exponent
        over = {
            "another receiver": level - slope * np.log10(away / 150.0) + there + own[0],
            "a mast": level - slope * np.log10(DISTANCES_M / 150.0) + here + own[1] + MAST_DB,
        }
        chances = {
            "another receiver": meets_from(draws, 1 - RULE, spots, 0, seed=seed).mean(axis=0),
            "a mast": draws.meets(1 - RULE, MAST_DB).mean(axis=0),
        }
        spread = np.hypot(regime.sigma_f, regime.waterfall)
        for kind, true in over.items():
            holds = (1 - regime.floor) * ndtr(true / spread) >= RULE
            said[kind] += zip(chances[kind].tolist(), holds.tolist(), strict=True)


def main() -> None:
    """Print the table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--studies", type=int, default=100)
    parser.add_argument("--regime", default="ordinary")
    asked = parser.parse_args()
    said: dict[str, list[tuple[float, bool]]] = defaultdict(list)
    for seed in range(asked.studies):
        study(asked.regime, seed, said)
    for kind, pairs in said.items():
        print(kind)
        for low, high in itertools.pairwise(BINS):
            own = [(p, met) for p, met in pairs if low <= p < high]
            if own:
                p, met = np.mean(own, axis=0)
                print(
                    f"  said {100 * low:.0f} to {100 * min(high, 1):.0f} %: {100 * p:.0f} % on average, {100 * met:.0f} % of {len(own)} do"
                )


if __name__ == "__main__":
    main()
