"""Several legs at once: an exchange needs all of them, receivers together need any.

P = Phi(margin / spread) of one leg. What the place does moves all legs together; what is each leg's
own is drawn anew for each try. With a common spread the product of the legs is wrong.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from inchmark.core.checks import Floats, within
from inchmark.core.normal import ndtr

_POINTS, _REACH = 4001, 9.0  # of the common standard normal


def share_heard(
    margins_db: Sequence[float],
    own_spreads_db: Sequence[float],
    common_spread_db: float = 0.0,
    *,
    tries: int = 1,
    needs_all: bool,
) -> float:
    """Return the share in which every leg (`needs_all`), or any, arrives in one of so many tries."""
    if len(margins_db) != len(own_spreads_db) or not len(margins_db):
        raise ValueError("each leg needs a margin and a spread of its own")
    within("own_spreads_db", own_spreads_db, 1e-6, 100)
    within("common_spread_db", common_spread_db, 0, 100)
    within("tries", tries, 1, 1000)
    u = np.linspace(-_REACH, _REACH, _POINTS) if common_spread_db else np.zeros(1)
    weight = np.exp(-(u**2) / 2)
    legs: Floats = ndtr(
        (np.asarray(margins_db)[:, None] + common_spread_db * u)
        / np.asarray(own_spreads_db)[:, None]
    )
    once = np.prod(legs, axis=0) if needs_all else 1 - np.prod(1 - legs, axis=0)
    return float(np.sum(weight * (1 - (1 - once) ** tries)) / np.sum(weight))
