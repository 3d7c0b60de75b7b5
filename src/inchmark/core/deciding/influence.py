"""Which uncertain item moves the number of places served most: what a tornado shows.

For what the walk left in doubt: the count expected among the draws in which the item lies in its lower
fifth, and among those in its upper fifth. Items hang together in the posterior, so a bar holds what
goes with its item. For what no walk tells (a height, noise to come): the count under both values.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.reading.place_draws import PlaceDraws

FIFTH = 0.2
SAME = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Influence:
    """An item: its two values, and how many places are expected under each."""

    item: str
    low: float
    high: float
    served_low: float
    served_high: float

    @property
    def swing(self) -> float:
        """Return by how many places it moves the count."""
        return abs(self.served_high - self.served_low)


def influences(draws: PlaceDraws, loss: float) -> list[Influence]:
    """Return the items drawn, the strongest first; those that do not vary are left out."""
    counts = draws.meets(loss).sum(axis=1).astype(np.float64)
    middle = draws.typical[:, _middle(draws)]
    items = {
        "level": middle,
        "exponent": draws.exponent,
        "places": draws.place_db,
        "frames": draws.frame_db,
        "floor": draws.floor,
        "walls": draws.wall_factor,
        "threshold": np.zeros(len(counts)) if draws.threshold is None else draws.threshold,
    }
    found = [_split(name, values, counts) for name, values in items.items()]
    return sorted((one for one in found if one is not None), key=lambda one: -one.swing)


def shifted(item: str, draws: PlaceDraws, loss: float, low: tuple[float, Floats | float],
            high: tuple[float, Floats | float]) -> Influence:  # fmt: skip
    """Return an item of two values, each with what it adds to the level of every place [dB]."""
    (low_value, low_db), (high_value, high_db) = low, high
    served = [float(draws.meets(loss, db).sum(axis=1).mean()) for db in (low_db, high_db)]
    return Influence(
        item=item, low=low_value, high=high_value, served_low=served[0], served_high=served[1]
    )


def _middle(draws: PlaceDraws) -> int:
    """Return the place whose typical level is the middle one: slope and level pull least at each other."""
    levels = np.median(draws.typical, axis=0)
    return int(np.argsort(levels)[len(levels) // 2])


def _split(name: str, values: Floats, counts: Floats) -> Influence | None:
    low, high = np.quantile(values, (FIFTH, 1 - FIFTH))
    if high - low <= SAME:
        return None
    lower, upper = values <= low, values >= high
    return Influence(
        item=name,
        low=float(np.median(values[lower])),
        high=float(np.median(values[upper])),
        served_low=float(counts[lower].mean()),
        served_high=float(counts[upper].mean()),
    )
