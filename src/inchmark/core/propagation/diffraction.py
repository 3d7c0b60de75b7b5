"""Diffraction over terrain by the delta-Bullington construction (ITU-R P.526-15, clause 4.5).

Many paths at once: arrays of shape (..., points), one row a path, the ends included. Heights are
above sea level [m], distances from the first end [m]; inside they are in km as P.526 has them.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from inchmark.core.checks import floats, positive
from inchmark.core.constants import EARTH_RADIUS_M
from inchmark.core.propagation.geometry import MEDIAN_K
from inchmark.core.propagation.knife_edge import knife_edge_loss_db
from inchmark.core.propagation.spherical_earth import LAND, spherical_loss_db
from inchmark.core.propagation.two_ray import Ground

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Diffraction:
    """Loss [dB] by path, with what it is made of; heights are above the smooth surface [m]."""

    loss_db: Floats
    bullington_nu: Floats
    bullington_db: Floats
    smooth_height1_m: Floats
    smooth_height2_m: Floats
    smooth_bullington_db: Floats
    spherical_db: Floats


def delta_bullington(
    distance_m: ArrayLike,
    ground_m: ArrayLike,
    *,
    height1_m: ArrayLike,
    height2_m: ArrayLike,
    frequency_hz: float,
    polarisation: str = "vertical",
    k: float = MEDIAN_K,
    ground: Ground = LAND,
) -> Diffraction:
    """Return the diffraction loss of paths over terrain.

    Parameters
    ----------
    distance_m, ground_m
        Shape (..., points), ascending from 0, three points or more: distance and terrain height.
    height1_m, height2_m
        Antennas above the ground at the ends [m], shape (...).
    polarisation
        "vertical" or "horizontal".

    Raises
    ------
    ValueError
        Fewer than three points, or distances that do not ascend.
    """
    d_all, h_all = _profile(distance_m, ground_m)
    frequency_ghz = float(positive("frequency_hz", frequency_hz)) / 1e9
    wavelength = 0.299792458 / frequency_ghz
    curvature = 1000 / (k * EARTH_RADIUS_M)  # of the effective earth [1/km]
    d = d_all[..., -1]
    h1 = h_all[..., 0] + floats("height1_m", height1_m)
    h2 = h_all[..., -1] + floats("height2_m", height2_m)
    way = _way_between(d_all, wavelength)
    inner_h, bulge = h_all[..., 1:-1], 500 * curvature * way.product
    nu, actual = _bullington(way, inner_h + bulge, h1, h2)
    smooth1, smooth2 = _smooth_heights(way, d_all, h_all, h1, h2)
    te, re = h1 - smooth1, h2 - smooth2
    _, smooth = _bullington(way, bulge, te, re)
    spherical = spherical_loss_db(
        d,
        te,
        re,
        frequency_ghz=frequency_ghz,
        radius_km=1 / curvature,
        polarisation=polarisation,
        ground=ground,
    )
    return Diffraction(
        loss_db=actual + np.maximum(spherical - smooth, 0.0),
        bullington_nu=nu,
        bullington_db=actual,
        smooth_height1_m=te,
        smooth_height2_m=re,
        smooth_bullington_db=smooth,
        spherical_db=spherical,
    )


def _profile(distance_m: ArrayLike, ground_m: ArrayLike) -> tuple[Floats, Floats]:
    d = floats("distance_m", distance_m) / 1000
    h = floats("ground_m", ground_m)
    d, h = np.broadcast_arrays(d, h)
    if d.shape[-1] < 3:
        raise ValueError("a profile needs three points or more")
    if not np.all(np.diff(d, axis=-1) > 0):
        raise ValueError("distance_m must ascend")
    return d, h


@dataclass(frozen=True, slots=True)
class _Way:
    """Distances of the points between the ends, worked out once for all that need them [km].

    From the start and to the end, their inverses and product; `scale` turns a height over the
    line of sight [m] into nu.
    """

    wavelength_m: float
    whole: Floats
    share: Floats  # of the whole way, from the start
    per_start: Floats
    per_rest: Floats
    product: Floats
    scale: Floats

    def line(self, h1: Floats, h2: Floats) -> Floats:
        """Return the heights of the straight line between two ends [m]."""
        start = h1[..., None]
        return start + (h2[..., None] - start) * self.share


def _way_between(d_all: Floats, wavelength_m: float) -> _Way:
    whole, start = d_all[..., -1], d_all[..., 1:-1]
    rest = whole[..., None] - start
    product = start * rest
    return _Way(
        wavelength_m=wavelength_m,
        whole=whole,
        share=start / whole[..., None],
        per_start=1 / start,
        per_rest=1 / rest,
        product=product,
        scale=np.sqrt((0.002 / wavelength_m * whole)[..., None] / product),
    )


def _bullington(way: _Way, inner_h: Floats, h1: Floats, h2: Floats) -> tuple[Floats, Floats]:
    """Return nu of the equivalent edge and the loss [dB]; heights hold the earth's bulge."""
    d = way.whole
    up = np.max((inner_h - h1[..., None]) * way.per_start, axis=-1)
    down = np.max((inner_h - h2[..., None]) * way.per_rest, axis=-1)
    level = (h2 - h1) / d
    sighted = np.max((inner_h - way.line(h1, h2)) * way.scale, axis=-1)
    with np.errstate(divide="ignore", invalid="ignore"):
        at = (h2 - h1 + down * d) / (up + down)  # where the two horizons' lines cross
        at = np.where(np.isfinite(at) & (at > 0) & (at < d), at, d / 2)
    edge = h1 + up * at - (h1 * (d - at) + h2 * at) / d
    hidden = edge * np.sqrt(0.002 * d / (way.wavelength_m * at * (d - at)))
    nu = np.where(up < level, sighted, hidden)
    knife = knife_edge_loss_db(nu)
    return nu, knife + (1 - np.exp(-knife / 6)) * (10 + 0.02 * d)


def _smooth_heights(
    way: _Way, d_all: Floats, h_all: Floats, h1: Floats, h2: Floats
) -> tuple[Floats, Floats]:
    """Return the smooth surface at both ends [m], lowered for obstructions."""
    d, da, db, ha, hb = way.whole, d_all[..., :-1], d_all[..., 1:], h_all[..., :-1], h_all[..., 1:]
    step = db - da
    v1 = np.sum(step * (hb + ha), axis=-1)
    v2 = np.sum(step * (hb * (2 * db + da) + ha * (db + 2 * da)), axis=-1)
    start, end = (2 * v1 * d - v2) / d**2, (v2 - v1 * d) / d**2
    over = h_all[..., 1:-1] - way.line(h1, h2)
    most = np.max(over, axis=-1)
    near, far = np.max(over * way.per_start, axis=-1), np.max(over * way.per_rest, axis=-1)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(most > 0, near / (near + far), 0.0)
    lowered = np.maximum(most, 0.0)
    start, end = start - lowered * share, end - lowered * np.where(most > 0, 1 - share, 0.0)
    return np.minimum(start, h_all[..., 0]), np.minimum(end, h_all[..., -1])
