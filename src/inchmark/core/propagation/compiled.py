"""Delta-Bullington over a terrain grid, one path after another, as loops compiled by numba.

The same construction as `diffraction` (ITU-R P.526-15, clause 4.5), which is its oracle: a map asks
for a quarter of a million paths, and whole arrays of them do not stay in the processor's cache.
Lengths are in km and frequencies in GHz inside, as the Recommendation has them.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from inchmark.core.checks import Floats

CLEAR_NU, LEAST_HEIGHT_M = -0.78, 1e-3
_compiled = njit(nogil=True, cache=True, error_model="numpy")
_gather = njit(
    nogil=True,
    cache=True,
    error_model="numpy",
    fastmath={"reassoc", "contract", "nsz", "arcp"},  # not "nnan": a height may be unknown
)
ONE = np.uint32(1)
# sums and maxima in any order, so that they run several points at once; heights are known by then
_sweep = njit(
    nogil=True,
    cache=True,
    error_model="numpy",
    fastmath={"reassoc", "contract", "nsz", "nnan", "ninf", "arcp"},
)


@_compiled
def losses_over(
    heights: Floats,
    cover: np.ndarray[tuple[int, int], np.dtype[np.float32]],
    start: Floats,
    rows: Floats,
    columns: Floats,
    away_km: Floats,
    counts: np.ndarray[tuple[int], np.dtype[np.int64]],
    ends_m: Floats,
    radio: Floats,
    out: Floats,
) -> None:
    """Fill `out` with the diffraction loss of each path [dB], NaN where a height is not known.

    Parameters
    ----------
    heights, cover
        Terrain and what stands on it [m]; cover of shape (0, 0) where nothing is known of it.
    start
        Row and column of the common end.
    rows, columns, away_km, counts
        The other ends in cells, how far each is [km], points along each path.
    ends_m
        Shape (paths, 2): antennas above the ground at the common and the other end [m].
    radio
        Frequency [GHz], radius of the effective earth [km], permittivity, conductivity [S/m], and 1
        for vertical polarisation.
    """
    most = counts.max()
    index = np.arange(most + 1) * 1.0
    inverse = 1.0 / np.maximum(index, 1.0)
    ground, clear = np.empty(most), np.empty(most)
    flat, width = heights.reshape(-1), np.int32(heights.shape[1])
    last = (np.int32(heights.shape[0] - 2), np.int32(heights.shape[1] - 2))
    for p in range(len(rows)):
        count = counts[p]
        line = (start[0], start[1], rows[p], columns[p])
        _profile(flat, width, last, line, ground[:count], index)
        if cover.shape[0] > 0:
            _stand(cover, start, rows[p], columns[p], count, clear)
            for i in range(count):
                ground[i] += clear[i]
        if not _known(ground, count):
            out[p] = math.nan
            continue
        out[p] = _loss(ground[:count], away_km[p], ends_m[p], radio, index, inverse)


@_gather
def _profile(flat, width, last, line, ground, index):  # type: ignore[no-untyped-def]
    """Fill the heights along a line inside the grid, between the four nearest cells."""
    share = 1.0 / (len(ground) - 1)
    down, across = (line[2] - line[0]) * share, (line[3] - line[1]) * share
    for i in range(len(ground)):
        x = index[i]
        row, column = line[0] + x * down, line[1] + x * across
        # 32 bits and no sign: an index that may be negative is looked at twice
        r, c = min(np.int32(row), last[0]), min(np.int32(column), last[1])
        at = np.uint32(r * width + c)
        below = np.uint32(at + width)
        y, x = row - r, column - c
        upper = flat[at] + (flat[np.uint32(at + ONE)] - flat[at]) * x
        lower = flat[below] + (flat[np.uint32(below + ONE)] - flat[below]) * x
        ground[i] = upper + (lower - upper) * y


@_compiled
def _stand(cover, start, row1, column1, count, clear):  # type: ignore[no-untyped-def]
    """Fill what stands on the ground along a line, without the stretches that reach either end."""
    last_row, last_column = cover.shape[0] - 1, cover.shape[1] - 1
    share = 1.0 / (count - 1)
    down, across = (row1 - start[0]) * share, (column1 - start[1]) * share
    for i in range(count):
        r = int(np.rint(start[0] + i * down))
        c = int(np.rint(start[1] + i * across))
        clear[i] = cover[min(max(r, 0), last_row), min(max(c, 0), last_column)]
    i = 0
    while i < count and clear[i] > 0:
        clear[i] = 0.0
        i += 1
    i = count - 1
    while i >= 0 and clear[i] > 0:
        clear[i] = 0.0
        i -= 1
    clear[0] = 0.0
    clear[count - 1] = 0.0


@_compiled
def _known(ground, count):  # type: ignore[no-untyped-def]
    total = 0.0
    for i in range(count):
        total += ground[i]
    return not math.isnan(total)


@_compiled
def _loss(ground, d, ends_m, radio, index, inverse):  # type: ignore[no-untyped-def]
    """Return the delta-Bullington loss of a profile [dB]."""
    wavelength, last = 0.299792458 / radio[0], len(ground) - 1
    first, end = ground[0], ground[last]
    h1, h2 = first + ends_m[0], end + ends_m[1]
    step = d / last
    bend = 500.0 / radio[1] * step * step
    up, down, most, near, far, v1, v2 = _swept(ground, h1, h2, bend, index, inverse)
    up, down = up / step, down / step
    if up < (h2 - h1) / d:
        sighted = _sighted(ground, h1, h2, bend, index)
        actual = _bullington_db(sighted * math.sqrt(0.002 / wavelength * d) / step, d)
    else:
        actual = _bullington_db(_hidden(h1, h2, up, down, d, wavelength), d)
    # sums over stretches of a straight profile, as sums over its points
    area = step * (2.0 * v1 + first + end)
    moment = step * step * (6.0 * v2 + first + end * (3.0 * last - 1.0))
    smooth1, smooth2 = (2.0 * area * d - moment) / d**2, (moment - area * d) / d**2
    if most > 0:
        share = near / (near + far)
        smooth1, smooth2 = smooth1 - most * share, smooth2 - most * (1.0 - share)
    te, re = h1 - min(smooth1, first), h2 - min(smooth2, end)
    smooth = _smooth_db(te, re, last, d, bend, wavelength)
    spherical = _spherical_db(d, te, re, radio)
    return actual + max(spherical - smooth, 0.0)


@_sweep
def _swept(ground, h1, h2, bend, index, inverse):  # type: ignore[no-untyped-def]
    """Return steepest rises from both ends, what stands over their line, and the sums of a fit."""
    last = len(ground) - 1
    rise, length = (h2 - h1) / last, 1.0 * last
    up = down = most = near = far = -1e30
    v1 = v2 = 0.0
    for i in range(1, last):
        x, from_start, from_end = index[i], inverse[i], inverse[last - i]
        height = ground[i]
        v1 += height
        v2 += height * x
        raised = height + bend * x * (length - x)
        a, b = (raised - h1) * from_start, (raised - h2) * from_end
        over = height - (h1 + rise * x)
        e, f = over * from_start, over * from_end
        up = a if a > up else up
        down = b if b > down else down
        most = over if over > most else most
        near = e if e > near else near
        far = f if f > far else far
    return up, down, most, near, far, v1, v2


@_sweep
def _sighted(ground, h1, h2, bend, index):  # type: ignore[no-untyped-def]
    """Return nu of the highest point beside a free line of sight, before its scale."""
    last = len(ground) - 1
    rise, length = (h2 - h1) / last, 1.0 * last
    best = -1e30
    for i in range(1, last):
        x = index[i]
        product = x * (length - x)
        nu = (ground[i] + bend * product - (h1 + rise * x)) / math.sqrt(product)
        best = nu if nu > best else best
    return best


@_compiled
def _hidden(h1, h2, up, down, d, wavelength):  # type: ignore[no-untyped-def]
    """Return nu of the edge where the two horizons' lines cross."""
    at = (h2 - h1 + down * d) / (up + down)
    if not (math.isfinite(at) and 0 < at < d):
        at = d / 2
    edge = h1 + up * at - (h1 * (d - at) + h2 * at) / d
    return edge * math.sqrt(0.002 * d / (wavelength * at * (d - at)))


@_compiled
def _bullington_db(nu, d):  # type: ignore[no-untyped-def]
    if nu <= CLEAR_NU:
        return 0.0
    over = nu - 0.1
    knife = 6.9 + 20.0 * math.log10(math.sqrt(over * over + 1.0) + over)
    return knife + (1.0 - math.exp(-knife / 6.0)) * (10.0 + 0.02 * d)


@_compiled
def _smooth_db(te, re, last, d, bend, wavelength):  # type: ignore[no-untyped-def]
    """Return Bullington's loss over the bulge of the earth alone [dB]."""
    step = d / last
    up, down = _steepest(te, last, bend) / step, _steepest(re, last, bend) / step
    if up >= (re - te) / d:
        return _bullington_db(_hidden(te, re, up, down, d, wavelength), d)
    scale = math.sqrt(0.002 / wavelength * d) / step
    # the two heights over sqrt(i j) are never less than twice the root of their product
    if (bend * last / 2.0 - 2.0 * math.sqrt(te * re) / last) * scale <= CLEAR_NU:
        return 0.0
    best = -math.inf
    rise = (re - te) / last
    for i in range(1, last):
        product = float(i) * (last - i)
        best = max(best, (bend * product - (te + rise * i)) / math.sqrt(product))
    return _bullington_db(best * scale, d)


@_compiled
def _steepest(height, last, bend):  # type: ignore[no-untyped-def]
    """Return the steepest rise to the bulge from an end; it has one maximum along the way."""
    top = math.sqrt(max(height, 0.0) / bend)
    i = min(max(math.floor(top), 1.0), last - 1.0)
    j = min(i + 1.0, last - 1.0)
    return max(bend * (last - i) - height / i, bend * (last - j) - height / j)


@_compiled
def _spherical_db(d, height1, height2, radio):  # type: ignore[no-untyped-def]
    """Return the loss over a smooth round earth [dB] (P.526-15, clause 3)."""
    h1, h2 = max(height1, LEAST_HEIGHT_M), max(height2, LEAST_HEIGHT_M)
    radius, wavelength = radio[1], 0.299792458 / radio[0]
    sight = math.sqrt(2.0 * radius) * (math.sqrt(0.001 * h1) + math.sqrt(0.001 * h2))
    if d >= sight:
        return _first_term_db(d, h1, h2, radius, radio)
    c = (h1 - h2) / (h1 + h2)
    m = 250.0 * d * d / (radius * (h1 + h2))
    inner = min(max(1.5 * c * math.sqrt(3.0 * m / (m + 1.0) ** 3), -1.0), 1.0)
    turned = math.cos(math.pi / 3.0 + math.acos(inner) / 3.0)
    d1 = d / 2.0 * (1.0 + 2.0 * math.sqrt((m + 1.0) / (3.0 * m)) * turned)
    d2 = d - d1
    free = ((h1 - 500.0 * d1 * d1 / radius) * d2 + (h2 - 500.0 * d2 * d2 / radius) * d1) / d
    needed = 17.456 * math.sqrt(max(d1 * d2, 1e-12) * wavelength / d)
    if free > needed:
        return 0.0
    modified = 500.0 * (d / (math.sqrt(h1) + math.sqrt(h2))) ** 2
    within = max(_first_term_db(d, h1, h2, modified, radio), 0.0)
    return (1.0 - min(free / needed, 1.0)) * within


@_compiled
def _first_term_db(d, h1, h2, radius, radio):  # type: ignore[no-untyped-def]
    """Return the first term of the residue series [dB]."""
    f, eps, sigma = radio[0], radio[2], radio[3]
    loss_term = (18.0 * sigma / f) ** 2
    admittance = 0.036 * (radius * f) ** (-1.0 / 3.0) * ((eps - 1.0) ** 2 + loss_term) ** -0.25
    if radio[4] > 0:
        admittance *= math.sqrt(eps * eps + loss_term)
    k2 = admittance * admittance
    beta = (1.0 + 1.6 * k2 + 0.67 * k2 * k2) / (1.0 + 4.5 * k2 + 1.53 * k2 * k2)
    x = 21.88 * beta * (f / (radius * radius)) ** (1.0 / 3.0) * d
    y = 0.9575 * beta * (f * f / radius) ** (1.0 / 3.0)
    if x >= 1.6:
        far = 11.0 + 10.0 * math.log10(x) - 17.6 * x
    else:
        far = -20.0 * math.log10(x) - 5.6488 * x**1.425
    gain1 = _height_gain_db(y * h1, beta, admittance)
    return -far - gain1 - _height_gain_db(y * h2, beta, admittance)


@_compiled
def _height_gain_db(y, beta, admittance):  # type: ignore[no-untyped-def]
    b = beta * y
    if b > 2.0:
        gain = 17.6 * math.sqrt(b - 1.1) - 5.0 * math.log10(b - 1.1) - 8.0
    else:
        gain = 20.0 * math.log10(b + 0.1 * b**3)
    return max(gain, 2.0 + 20.0 * math.log10(admittance))
