"""How likely the rule is met everywhere around: the map that follows the walk."""

from __future__ import annotations

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.normal import ndtr
from inchmark.core.reading.place_draws import PlaceDraws

SOME = 48  # draws are enough for the colours of a map
PIECE = 20_000  # cells at once, so that the arrays stay small


def chance_map(
    draws: PlaceDraws,
    loss: float,
    *,
    places_db: Floats,
    cells_db: Floats,
    places_decades: Floats,
    cells_decades: Floats,
    places_walls: Floats,
    cells_walls: Floats,
) -> Floats:
    """Return how likely the loss rule is met in cells (cells,), NaN where no path is known.

    Paths of the places (places,) and the cells (cells,): what is known of their loss [dB], and ten
    times the logarithm of their distance, which the walk's exponent weighs. Over terrain all is
    known and the second is 0; without it the first is 0. What walls cost as they are said [dB] is
    weighed by what the walk found of them. The places anchor the level: what the walk says of a
    typical place there.
    """
    few = draws.some(SOME)
    exponent, spread = few.exponent[:, None], few.place_db[:, None]
    factor = few.wall_factor[:, None]
    anchor = few.typical + places_db + exponent * places_decades + factor * places_walls
    level = np.nanmean(anchor, axis=1, keepdims=True) - few.wanted_db(loss)[:, None]
    found = np.empty(len(cells_db))
    for begin in range(0, len(found), PIECE):
        at = slice(begin, begin + PIECE)
        left = level - cells_db[at] - exponent * cells_decades[at] - factor * cells_walls[at]
        found[at] = ndtr(left / spread).mean(axis=0)
    return found
