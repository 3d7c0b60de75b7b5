"""What a change does to needed places: how likely each is served, how many are, which are won."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from inchmark.core.checks import Floats
from inchmark.core.interval import Estimate
from inchmark.core.reading.expected import LIKELY
from inchmark.core.reading.place_draws import PlaceDraws, counted

MOST_GAIN_DB = 80.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Effect:
    """Chances of every place (places,) from 0 to 1, and how many are served, with limits."""

    chances: tuple[float, ...]
    count: Estimate

    def won(self, before: Effect) -> list[int]:
        """Return the places that hold now and did not before."""
        pairs = enumerate(zip(before.chances, self.chances, strict=True))
        return [i for i, (was, now) in pairs if was < LIKELY <= now]


def effect_of(meets: NDArray[np.bool_]) -> Effect:
    """Return the effect from draws (draws, places) that meet the rule or do not."""
    return Effect(chances=tuple(meets.mean(axis=0).tolist()), count=counted(meets))


def gained(draws: PlaceDraws, loss: float, gained_db: ArrayLike = 0.0) -> Effect:
    """Return the effect of so much more level (places,) or everywhere [dB]."""
    return effect_of(draws.meets(loss, gained_db))


def needed_gain_db(draws: PlaceDraws, loss: float, place: int) -> float | None:
    """Return how much more level a place needs to hold [dB]; None where no level is enough.

    0 where it holds already.
    """
    lacking = draws.wanted_db(loss) - draws.over[:, place]
    found = float(np.quantile(lacking, LIKELY, method="inverted_cdf"))
    return None if found > MOST_GAIN_DB else max(found, 0.0)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Spots:
    """Other spots for one end, as their typical paths compare with the present ones (spots, places).

    `nearer_db` is ten times the logarithm of how many times shorter each path is; `fixed_db` what
    it has beyond that, of terrain, heights or antennas [dB]. Where terrain is known `nearer_db` is 0
    and all is in `fixed_db`. `fewer_walls_db` is how much less the walls on it cost as they are said.
    """

    nearer_db: Floats
    fixed_db: Floats
    fewer_walls_db: Floats

    def typical(self, draws: PlaceDraws, spot: int) -> Floats:
        """Return the typical level over the threshold from one spot (draws, places) [dB]."""
        slope = draws.exponent[:, None] * self.nearer_db[spot]
        walls = draws.wall_factor[:, None] * self.fewer_walls_db[spot]
        found: Floats = draws.typical + slope + walls + self.fixed_db[spot]
        return found


def meets_from(
    draws: PlaceDraws, loss: float, spots: Spots, spot: int, *, seed: int
) -> NDArray[Any]:
    """Return whether the rule holds from another spot (draws, places), its shadowing drawn anew."""
    typical = spots.typical(draws, spot)
    own = np.random.default_rng(seed + spot).standard_normal(typical.shape)
    level = typical + draws.place_db[:, None] * own
    found: NDArray[Any] = np.asarray(level >= draws.wanted_db(loss)[:, None])
    return found
