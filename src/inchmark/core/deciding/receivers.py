"""Where a further receiver serves most places: a greedy cover of what is not served yet.

A greedy choice covers at least 1 - 1/e of what the best choice of as many receivers would
(Nemhauser, Wolsey and Fisher 1978: the expected count is submodular).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats
from inchmark.core.deciding.effects import Effect, Spots, effect_of, meets_from
from inchmark.core.normal import ndtr
from inchmark.core.reading.place_draws import PlaceDraws

FEWEST = 0.05  # of a place: a receiver that adds less is not worth naming
SCORED = 200  # draws that candidates are compared by


@dataclass(frozen=True, slots=True, kw_only=True)
class Added:
    """A receiver more: which candidate, what it does, and how many places more are expected."""

    spot: int
    effect: Effect
    adds: float


def further_receivers(
    draws: PlaceDraws, loss: float, spots: Spots, *, most: int = 2, seed: int = 0
) -> list[Added]:
    """Return the receivers worth adding, each with those before it at work."""
    met = draws.meets(loss)
    some = np.linspace(0, len(met) - 1, min(SCORED, len(met))).round().astype(int)
    chances = _chances(draws, loss, spots, some)
    found: list[Added] = []
    for _ in range(most):
        lacking = ~met[some]
        adds = np.einsum("dp,cdp->c", lacking.astype(np.float64), chances) / len(some)
        adds[[one.spot for one in found]] = 0.0
        best = int(np.argmax(adds)) if len(adds) else 0
        if not len(adds) or adds[best] < FEWEST:
            break
        met = met | meets_from(draws, loss, spots, best, seed=seed)
        found.append(Added(spot=best, effect=effect_of(met), adds=float(adds[best])))
    return found


def _chances(draws: PlaceDraws, loss: float, spots: Spots, some: NDArray[np.intp]) -> Floats:
    """Return how likely the rule holds from each spot in some draws (spots, draws, places)."""
    wanted, spread = draws.wanted_db(loss)[some, None], draws.place_db[some, None]
    found = np.empty((len(spots.fixed_db), len(some), draws.over.shape[1]))
    for spot in range(len(found)):
        slope = draws.exponent[some, None] * spots.nearer_db[spot]
        typical = draws.typical[some] + slope + spots.fixed_db[spot]
        found[spot] = ndtr((typical - wanted) / spread)
    return found


def relayed(
    draws: PlaceDraws, loss: float, spots: Spots, place: int, *, seed: int = 0
) -> list[tuple[int, float]]:
    """Return through which other places a place would be served, the likeliest first.

    `spots` are the places themselves as receivers. Both hops must hold: that to the relay, which
    has its own shadowing, and that from there.
    """
    met = draws.meets(loss)
    found = []
    for other in range(met.shape[1]):
        if other != place:
            hop = meets_from(draws, loss, spots, other, seed=seed)[:, place]
            chance = float(np.mean(met[:, place] | (hop & met[:, other])))
            found.append((other, chance))
    return sorted(found, key=lambda pair: -pair[1])
