"""Which walls the ways to very many places cross, as a loop compiled by numba.

The same test as `crossings.crossing_counts`, which is its oracle.
"""

from __future__ import annotations

from numba import njit

from inchmark.core.checks import Floats


@njit(
    nogil=True,
    cache=True,
    error_model="numpy",
    fastmath={"reassoc", "contract", "nsz", "nnan", "ninf"},  # sums in any order: several at once
)
def sums(to: Floats, ends: Floats, loss: Floats, out: Floats) -> None:
    """Fill `out` (places,) with the loss of the pieces crossed on the way to each place [dB].

    Parameters
    ----------
    to
        Shape (places, 2): east and north of the common end [m].
    ends, loss
        Shape (4, pieces) and (pieces,): both ends of each piece likewise [m], and its loss [dB].
    """
    ax, ay, bx, by = ends[0], ends[1], ends[2], ends[3]
    for p in range(len(to)):
        x, y, total = to[p, 0], to[p, 1], 0.0
        for s in range(len(loss)):
            across = (x * ay[s] - y * ax[s] >= 0) != (x * by[s] - y * bx[s] >= 0)
            here = ax[s] * by[s] - ay[s] * bx[s]
            there = here - x * (by[s] - ay[s]) + y * (bx[s] - ax[s])
            total += loss[s] if across & (here * there < 0) else 0.0
        out[p] = total
