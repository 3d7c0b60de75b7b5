"""One path from the side: earth's bulge, sight line, first Fresnel zone, what stands in it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from inchmark.core.checks import Floats, floats, positive
from inchmark.core.propagation.diffraction import Diffraction, delta_bullington
from inchmark.core.propagation.geometry import MEDIAN_K, earth_bulge_m, fresnel_radius_m
from inchmark.core.propagation.knife_edge import fresnel_parameter, knife_edge_loss_db
from inchmark.core.propagation.two_ray import break_distance_m

CLEAR_SHARE = 0.6  # of the first zone's radius: clearance that loses nothing (P.526, usual rule)
LEAST_OBSTACLE_DB = 0.5
FINE_POINTS = 401  # as many as the longest profile cut from a terrain


@dataclass(frozen=True, slots=True, kw_only=True)
class Obstacle:
    """A hump in the way: where [m], how far above the sight line [m], alone as an edge [dB]."""

    distance_m: float
    above_line_m: float
    loss_db: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PathView:
    """Arrays along the path [m]: ground with bulge, sight line, radius of the first zone."""

    distance_m: Floats
    ground_m: Floats
    line_m: Floats
    zone_m: Floats
    worst: int  # where the clearance is least, as a share of the zone
    obstacles: tuple[Obstacle, ...]
    break_m: float
    diffraction: Diffraction

    @property
    def worst_share(self) -> float:
        """Return the least clearance as a share of the first zone's radius; below 0 hidden."""
        at = self.worst
        return float((self.line_m[at] - self.ground_m[at]) / self.zone_m[at])

    @property
    def sighted(self) -> bool:
        """Tell whether the ends see each other."""
        return self.worst_share > 0

    @property
    def clear(self) -> bool:
        """Tell whether six tenths of the first zone are free."""
        return self.worst_share >= CLEAR_SHARE

    @property
    def diffraction_db(self) -> float:
        """Return what terrain and the earth's curve cost by delta-Bullington [dB]."""
        return float(self.diffraction.loss_db)


def fine_profile(distance_m: Floats, ground_m: Floats, cover_m: Floats) -> tuple[Floats, Floats]:
    """Return distances and heights with cover of a typed profile, with points between its own.

    Between points far apart the earth stands up, and nothing would be judged there. The ground is
    straight from one point to the next; cover stands at its point, and on to the next that has any.
    """
    steps = np.linspace(0, distance_m[-1], FINE_POINTS)
    fine = np.union1d(distance_m, steps)
    after = np.clip(np.searchsorted(distance_m, fine), 1, len(distance_m) - 1)
    typed = np.isin(fine, distance_m)
    covered = typed | ((cover_m[after - 1] > 0) & (cover_m[after] > 0))
    cover = np.where(covered, np.interp(fine, distance_m, cover_m), 0.0)
    return fine, np.interp(fine, distance_m, ground_m) + cover


def path_view(
    distance_m: Floats,
    ground_m: Floats,
    *,
    height1_m: float,
    height2_m: float,
    frequency_hz: float,
    polarisation: str = "vertical",
    k: float = MEDIAN_K,
) -> PathView:
    """Return the path from the side.

    Parameters
    ----------
    distance_m, ground_m
        Shape (points,), three or more, ascending from 0: terrain and cover above sea level.
    height1_m, height2_m
        Antennas above the ground at the ends, greater than 0.
    """
    d, h = floats("distance_m", distance_m), floats("ground_m", ground_m)
    h1, h2 = float(positive("height1_m", height1_m)), float(positive("height2_m", height2_m))
    diffraction = delta_bullington(
        d, h, height1_m=h1, height2_m=h2, frequency_hz=frequency_hz, polarisation=polarisation, k=k
    )
    length = d[-1]
    ground = h + earth_bulge_m(d, length - d, k=k)
    line = (h[0] + h1) + (h[-1] + h2 - h[0] - h1) * d / length
    zone = np.zeros_like(d)
    zone[1:-1] = fresnel_radius_m(d[1:-1], length - d[1:-1], frequency_hz)
    share = (line[1:-1] - ground[1:-1]) / zone[1:-1]
    return PathView(
        distance_m=d,
        ground_m=ground,
        line_m=line,
        zone_m=zone,
        worst=1 + int(np.argmin(share)),
        obstacles=tuple(_obstacles(d, ground - line, frequency_hz)),
        break_m=float(break_distance_m(h1, h2, frequency_hz)),
        diffraction=diffraction,
    )


def _obstacles(d: Floats, above: Floats, frequency_hz: float) -> list[Obstacle]:
    """Return the humps that would cost something alone, each as a single knife edge."""
    inner = np.arange(1, len(d) - 1)
    nu = fresnel_parameter(above[inner], d[inner], d[-1] - d[inner], frequency_hz)
    loss = knife_edge_loss_db(nu)
    # a hump is where nu is higher than at both neighbours; a plateau counts once, at its start
    padded = np.concatenate([[-np.inf], nu, [-np.inf]])
    top = (padded[1:-1] > padded[:-2]) & (padded[1:-1] >= padded[2:]) & (loss > LEAST_OBSTACLE_DB)
    return [
        Obstacle(
            distance_m=float(d[inner[i]]),
            above_line_m=float(above[inner[i]]),
            loss_db=float(loss[i]),
        )
        for i in np.flatnonzero(top)
    ]
