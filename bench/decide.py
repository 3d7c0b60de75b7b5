"""Time what Decide works out from stored draws: 200 places of 6 rigs, 10,000 options, a map dragged over.

Usage: .venv/bin/python -m bench.decide
"""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

from bench.margin_map import LAT, LON, TILE, cut, tile
from inchmark.core.deciding.effects import Spots, gained
from inchmark.core.deciding.options import not_dominated, outcomes
from inchmark.core.deciding.receivers import further_receivers
from inchmark.core.geodesy import Place
from inchmark.core.reading.place_draws import PlaceDraws
from inchmark.core.terrain_paths import losses_from
from inchmark.formats.terrain import read_terrain

PLACES, RIGS, DRAWS, OPTIONS, RUNS = 200, 6, 2000, 10_000, 5
LOSS = 0.1


def draws(seed: int) -> PlaceDraws:
    """Return invented draws of a rig at many places."""
    random = np.random.default_rng(seed)
    typical = random.uniform(-10, 30, PLACES) + random.normal(0, 2, (DRAWS, 1))
    return PlaceDraws(
        over=typical + random.normal(0, 5, typical.shape), typical=typical,
        exponent=random.normal(3, 0.2, DRAWS), place_db=np.full(DRAWS, 5.0),
        frame_db=np.full(DRAWS, 4.0), floor=random.uniform(0, 0.02, DRAWS),
    )  # fmt: skip


def median_ms(what: Callable[[], object]) -> float:
    """Return the median of some runs [ms]."""
    times = []
    for _ in range(RUNS):
        begin = time.perf_counter()
        what()
        times.append(1e3 * (time.perf_counter() - begin))
    return sorted(times)[RUNS // 2]


def main() -> None:
    """Print each figure."""
    kept = [draws(seed).kept() for seed in range(RIGS)]
    print(
        f"stored draws of {RIGS} rigs at {PLACES} places: {sum(map(len, kept)) / 1e6:.2f} MB of text"
    )

    def served() -> None:
        for text in kept:
            found = PlaceDraws.from_kept(text)
            assert found is not None
            gained(found, LOSS)

    print(f"unfolded, chances and counts of all: {median_ms(served):.0f} ms")
    small = PlaceDraws.from_kept(draws(0).kept())
    assert small is not None
    random = np.random.default_rng(1)
    gains = random.uniform(-20, 25, OPTIONS)
    air = random.choice([0.05, 0.1, 0.3, 1.2], OPTIONS)
    fourteen = PlaceDraws(
        over=small.over[:, :14], typical=small.typical[:, :14], exponent=small.exponent,
        place_db=small.place_db, frame_db=small.frame_db, floor=small.floor,
    )  # fmt: skip
    ms = median_ms(lambda: outcomes(fourteen, LOSS, gained_db=gains, airtime_s=air, period_s=900.0))
    print(f"{OPTIONS:,} options at 14 places: {ms:.0f} ms")
    costs = np.stack([gains.round(1), random.integers(0, 9, OPTIONS), air], axis=1)
    print(f"those of {OPTIONS:,} that none beats: {median_ms(lambda: not_dominated(costs)):.0f} ms")
    spots = Spots(
        nearer_db=np.zeros((200, 14)),
        fixed_db=random.normal(0, 10, (200, 14)),
        fewer_walls_db=np.zeros((200, 14)),
    )
    ms = median_ms(lambda: further_receivers(fourteen, LOSS, spots, most=3))
    print(f"three receivers of 200 spots for 14 places: {ms:.0f} ms")
    grid = cut(read_terrain(tile(), f"{TILE}.hgt"))
    side = np.linspace(-0.1, 0.1, 160)
    lat, lon = (axis.ravel() for axis in np.meshgrid(LAT + side, LON + side))
    start = Place(lat_deg=LAT, lon_deg=LON)
    losses_from(grid, start, lat, lon, height1_m=5.0, height2_m=1.0, frequency_hz=868e6)
    ms = median_ms(
        lambda: losses_from(grid, start, lat, lon, height1_m=5.0, height2_m=1.0, frequency_hz=868e6)
    )
    print(f"paths to 160 x 160 cells while something is dragged: {ms:.0f} ms")


if __name__ == "__main__":
    main()
