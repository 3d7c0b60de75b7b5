"""Sums of outer products of a model's rows, where each visit touches few of the globals.

The reduced information is sum_v w_v a_v b_v^T for three weights; a row has a level, slopes, perhaps a
penalty, a place and a threshold, so all but some twenty entries of each outer product are zero.
They are laid out once as a sparse matrix from weights (V,) to entries (G * G,).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import csr_array

from inchmark.core.checks import Floats


class Gram:
    """What is constant in the Newton system of a model, by the weights it is multiplied with."""

    def __init__(self, to_mu: Floats, to_t: Floats, group: NDArray[np.intp], groups: int) -> None:
        self.size, self.groups = to_mu.shape[1], groups
        self.mm = _outer(to_mu, to_mu)
        self.mt = _outer(to_mu, to_t) + _outer(to_t, to_mu)
        self.tt = _outer(to_t, to_t)
        self.shared_mm = _by_group(to_mu, group, groups)
        self.shared_mt = _by_group(to_t, group, groups)

    def information(self, w_mm: Floats, w_mt: Floats, w_tt: Floats) -> Floats:
        """Return sum_v of the weighted outer products, (B, G, G) of weights (B, V)."""
        flat = self.mm @ w_mm.T + self.mt @ w_mt.T + self.tt @ w_tt.T
        found: Floats = np.ascontiguousarray(flat.T).reshape(len(w_mm), self.size, self.size)
        return found

    def to_shared(self, w_mm: Floats, w_mt: Floats) -> Floats:
        """Return the coupling of globals with each group's shared remainder, (B, groups, G)."""
        flat = self.shared_mm @ w_mm.T + self.shared_mt @ w_mt.T
        found: Floats = np.ascontiguousarray(flat.T).reshape(len(w_mm), self.groups, self.size)
        return found


def _outer(left: Floats, right: Floats) -> csr_array:
    """Return (G * G, V): column v holds the outer product of the rows v of two (V, G)."""
    visits, size = left.shape
    rows, columns, values = [], [], []
    for v in range(visits):
        i, j = np.flatnonzero(left[v]), np.flatnonzero(right[v])
        rows.append((i[:, None] * size + j).ravel())
        values.append(np.outer(left[v, i], right[v, j]).ravel())
        columns.append(np.full(len(rows[-1]), v))
    place = (np.concatenate(rows), np.concatenate(columns))
    return csr_array((np.concatenate(values), place), shape=(size * size, visits))


def _by_group(rows: Floats, group: NDArray[np.intp], groups: int) -> csr_array:
    """Return (groups * G, V): column v holds row v of (V, G) at its group."""
    visits, size = rows.shape
    v, column = np.nonzero(rows)
    place = (group[v] * size + column, v)
    return csr_array((rows[v, column], place), shape=(groups * size, visits))
