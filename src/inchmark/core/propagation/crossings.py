"""Where straight lines from one place cross straight pieces of walls, for a few paths or a map of them.

Everything is laid on a plane about the common end, on which meridians run side by side: lengths are
off by half the difference in latitude times tan(latitude), a part in 10^5 at 100 m and in 1000 at 10 km.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from inchmark.core.checks import Floats
from inchmark.core.geodesy import Place, plane_m


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Segments:
    """Straight pieces (pieces, 4) as east and north of both ends from a common place [m]."""

    ends_m: Floats
    owner: NDArray[np.int64]  # the wall each belongs to
    start: Place


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Pieces:
    """Straight pieces on the globe (pieces, 4): latitude and longitude of both ends [degrees]."""

    ends_deg: Floats
    owner: NDArray[np.int64]

    @classmethod
    def of(cls, lines: Sequence[Sequence[tuple[float, float]]]) -> Pieces:
        """Return lines of latitude and longitude [degrees] in pieces."""
        points = [np.asarray(line, dtype=np.float64) for line in lines]
        ends = [np.hstack([line[:-1], line[1:]]) for line in points]
        counts = np.array([len(one) for one in ends], dtype=np.int64)
        return cls(
            ends_deg=np.vstack([np.empty((0, 4)), *ends]),
            owner=np.repeat(np.arange(len(ends), dtype=np.int64), counts),
        )

    def seen_from(self, start: Place) -> Segments:
        """Return the pieces on the plane about a place."""
        first, second = (
            plane_m(start, self.ends_deg[:, i], self.ends_deg[:, i + 1]) for i in (0, 2)
        )
        return Segments(ends_m=np.hstack([first, second]), owner=self.owner, start=start)


def crossing_counts(
    segments: Segments, lat_deg: ArrayLike, lon_deg: ArrayLike, walls: int
) -> NDArray[np.int64]:
    """Return how often the way to each place crosses each wall, (places, walls); for a few places.

    A piece holds its first end and not its last, so that a corner is crossed once; a wall that only
    touches an end of the path is not crossed.
    """
    to = np.atleast_2d(plane_m(segments.start, lat_deg, lon_deg))
    x, y = to[:, :1], to[:, 1:]
    ax, ay, bx, by = segments.ends_m.T
    first, second = x * ay - y * ax, x * by - y * bx  # on which side of the path each end lies
    across = (first >= 0) != (second >= 0)
    # on which side of the wall both ends of the path lie
    here = ax * by - ay * bx
    there = here - x * (by - ay) + y * (bx - ax)
    met = across & (here * there < 0)
    found = np.zeros((len(to), walls), dtype=np.int64)
    for i in range(len(segments.owner)):
        found[:, segments.owner[i]] += met[:, i]
    return found


def crossed_sums(
    segments: Segments, lat_deg: ArrayLike, lon_deg: ArrayLike, loss_db: Floats
) -> Floats:
    """Return the loss of the pieces crossed on the way to each place (places,) [dB]; for very many."""
    to = np.ascontiguousarray(np.atleast_2d(plane_m(segments.start, lat_deg, lon_deg)))
    out = np.zeros(len(to))
    if len(segments.owner):
        _compiled()(
            to,
            np.ascontiguousarray(segments.ends_m.T),
            np.ascontiguousarray(loss_db, dtype=np.float64),
            out,
        )
    return out


def _compiled() -> Callable[..., None]:
    # numba takes most of a second to load: only what asks for walls waits for it
    from inchmark.core.propagation.crossings_compiled import sums

    found: Callable[..., None] = sums
    return found
