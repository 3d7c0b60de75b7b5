"""Coverage of what is said of places behind drawn walls, over invented houses.

Usage: .venv/bin/python -m bench.walls [--studies 100]
Each house has eight to fourteen walls about a fixed end and twelve stops among them. What a wall truly
costs is what is said of it times a factor of its own, ~ N(1, 0.35), and one of the house, ~ N(1, 0.25). Ten
places lie anywhere. Printed are the shares of true levels within their 95 % limits (wanted 93 to 97), how wide
the limits are, and a table of reliability: of the places said to meet the rule with so much, how many do; with
walls counted, and read as if none were drawn.
"""

from __future__ import annotations

import argparse
import itertools
from collections import defaultdict
from dataclasses import dataclass, field, replace

import numpy as np

from bench.invented import Regime, _Study
from bench.places import BINS, RULE, inside
from inchmark.core.geodesy import Place, destination
from inchmark.core.link_model.data import LinkKey
from inchmark.core.normal import ndtr
from inchmark.core.propagation.walls import Wall, Walls
from inchmark.core.reading.analysis import Walked, analyse_visits
from inchmark.core.reading.expected import NeededPlace
from inchmark.core.reading.measured import ReceiverFacts, StopFacts
from inchmark.core.reading.places import served_places
from inchmark.core.reading.ranges import deciding
from inchmark.core.reading.walled import losses_to_spots, wall_facts

FIXED = Place(lat_deg=47.0, lon_deg=-22.0)
FREQUENCY_HZ = 868e6
KINDS = ("light", "heavy", "concrete", "brick", "plasterboard")
REGIME = Regime(
    name="house", rigs=2, stops=tuple(np.geomspace(3, 60, 12)), frames=60, exponent=2.3, sigma_s=3.0,
    sigma_e=1.5, sigma_f=2.0, level_dbm=-109.0,
)  # fmt: skip
PLACES = 10
Spot = tuple[float, float]


def spot(metres: float, bearing_deg: float) -> Spot:
    """Return where a place so far from the fixed end lies [degrees]."""
    found = destination(FIXED, bearing_deg, metres)
    return found.lat_deg, found.lon_deg


class House(_Study):
    """A walk about a house."""

    def __init__(self, seed: int) -> None:
        random = np.random.default_rng([20_27, seed])
        super().__init__(replace(REGIME, exponent=float(random.normal(2.3, 0.3))), random)
        self.walls = Walls(walls=tuple(self._wall() for _ in range(random.integers(8, 15))))
        factors = random.normal(1, 0.25) * np.maximum(
            random.normal(1, 0.35, len(self.walls.walls)), 0
        )
        self.true_db = factors * [one.crossing_db(FREQUENCY_HZ) for one in self.walls.walls]
        self.spots = {
            str(i): spot(d, float(random.uniform(0, 360))) for i, d in enumerate(self.regime.stops)
        }

    def _wall(self) -> Wall:
        away, turn = self.random.uniform(3, 45), self.random.uniform(0, 360)
        middle = destination(FIXED, turn, away)
        half, along = self.random.uniform(5, 20), turn + 90 + self.random.normal(0, 25)
        ends = [destination(middle, along + more, half) for more in (0, 180)]
        points = tuple((one.lat_deg, one.lon_deg) for one in ends)
        return Wall(points=points, kind=str(self.random.choice(KINDS)))

    def behind_db(self, spots: list[Spot]) -> np.ndarray:
        """Return what walls truly cost on the way to places [dB]."""
        lat, lon = zip(*spots, strict=True)
        return self.walls.crossed(FIXED, lat, lon) @ self.true_db

    def _shadow(self, distances: list[float]) -> np.ndarray:
        return super()._shadow(distances) - self.behind_db(list(self.spots.values()))

    def walked(self) -> Walked:
        """Return the walk with its coordinates and walls."""
        walked, _ = self.walk()
        stops = {name: StopFacts(spot=at) for name, at in self.spots.items()}
        site = replace(
            walked.site,
            receivers=(ReceiverFacts(spot=(FIXED.lat_deg, FIXED.lon_deg)),),
            frequency_hz=FREQUENCY_HZ,
        )
        facts, why = wall_facts(self.walls, site.receivers, stops, {"": FREQUENCY_HZ})
        if facts is None:
            raise ValueError(why)
        return replace(walked, stops=stops, site=replace(site, walls=facts))


@dataclass
class Tally:
    """What came of the houses, read one way."""

    hits: list[bool] = field(default_factory=list)
    wide: list[float] = field(default_factory=list)
    factors: list[bool] = field(default_factory=list)
    served: list[bool] = field(default_factory=list)
    said: list[tuple[float, bool]] = field(default_factory=list)

    def read(
        self, house: House, walked: Walked, places: list[NeededPlace], more: np.ndarray
    ) -> None:
        """Add what is said of places, and what is so; `more` is the places' own shadowing [dB]."""
        analysis = analyse_visits(walked)
        by = {rig: deciding(analysis, rig) for rig in analysis.rigs}
        fixed = (FIXED.lat_deg, FIXED.lon_deg)
        behind = house.behind_db([one.spot for one in places if one.spot])
        for one in served_places(analysis, by, places, fixed):
            link, met = by[one.rig].link, 0
            for row, place, own, walls in zip(one.places, places, more, behind, strict=True):
                level = house.truth.level[link] - house.loss(place.distance_m) + own - walls
                met += self._judge(house, link, row, level)
            if one.count is not None:
                self.served.append(inside(one.count, met))

    def _judge(self, house: House, link: LinkKey, row, level: float) -> bool:
        r = house.regime
        over = (level - house.truth.threshold[link]) / np.hypot(r.sigma_f, r.waterfall)
        holds = (1 - r.floor) * float(ndtr(over)) >= RULE
        if row.level_dbm:
            self.hits.append(inside(row.level_dbm, level))
            self.wide.append(row.level_dbm.high - row.level_dbm.low)
        if row.meets:
            self.said.append((row.meets.estimate, holds))
        return holds

    def show(self, name: str) -> None:
        """Print coverage and reliability."""
        print(
            f"{name}: levels {100 * np.mean(self.hits):.1f} % of {len(self.hits)} within 95 % limits"
        )
        print(
            f"  limits {np.median(self.wide):.1f} dB wide (median); places served {100 * np.mean(self.served):.1f} %"
        )
        for low, high in itertools.pairwise(BINS):
            own = [(p, met) for p, met in self.said if low <= p < high]
            if own:
                p, met = np.mean(own, axis=0)
                print(
                    f"  said {100 * low:.0f} to {100 * min(high, 1):.0f} %: {100 * p:.0f} % on average, {100 * met:.0f} % of {len(own)} do"
                )


def main() -> None:
    """Print both ways of reading."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--studies", type=int, default=60)
    asked = parser.parse_args()
    tallies: dict[str, Tally] = defaultdict(Tally)
    for seed in range(asked.studies):
        house = House(seed)
        walked = house.walked()
        random = house.random
        ways = [
            (float(d), spot(float(d), float(random.uniform(0, 360))))
            for d in random.uniform(4, 60, PLACES)
        ]
        more = random.normal(0, np.hypot(house.regime.sigma_s, house.regime.sigma_e), PLACES)
        costs = losses_to_spots(
            house.walls, walked.site.receivers, [at for _, at in ways], {"": FREQUENCY_HZ}
        )
        places = [
            NeededPlace(name=str(i), spot=at, distance_m=d, walls_db=cost)
            for i, ((d, at), cost) in enumerate(zip(ways, costs, strict=True))
        ]
        tallies["walls counted"].read(house, walked, places, more)
        bare = replace(walked, site=replace(walked.site, walls=None))
        tallies["as if none were drawn"].read(
            house, bare, [replace(one, walls_db={}) for one in places], more
        )
    for name, tally in tallies.items():
        tally.show(name)


if __name__ == "__main__":
    main()
