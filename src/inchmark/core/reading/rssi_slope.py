"""Whether the dB of an RSSI are dB: its readings against the S/N of the same frames.

S/N comes from another part of a receiver than RSSI. From a strong frame to a weak one both must fall
by the same; where RSSI falls by 0.9 dB for each, its slope is 0.9. A type of receiver has one slope.
It is looked for twice, and both are taken together by their errors:

* from visit to visit, by means: errors of single readings vanish in them;
* inside visits, frame by frame. Both readings err, so regressing one on the other bends the slope
  one way and the other: the truth lies between. The line of equal errors is taken, and the width of
  the bracket as its doubt.

===========  ====================================================================================
a            slope of RSSI [dB per dB], ~ N(1, 0.08^2) before anything was read
x, y         S/N [dB]; level less noise [dB], noise read the same way
===========  ====================================================================================

References
----------
Prior and test by the evidence: the method, section 14. Line of equal errors: Deming 1943, from memory.
The Bayes factor of two normals is textbook.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import log

import numpy as np
from scipy.special import stdtrit

from inchmark.core.checks import Floats
from inchmark.core.interval import Estimate
from inchmark.core.reception.visit import VisitSummary

PRIOR_SD = 0.08
FLOOR_SD = 0.012  # S/N estimators are not better than this
LEAST_FRAMES, LEAST_VISITS, LEAST_SPAN_DB = 10, 5, 8.0
LEAST_INSIDE, LEAST_SPREAD_DB = 60, 1.5  # frames within visits, and how far they spread
TOP_DB = 1  # S/N this near the highest seen may have stopped rising
LOWEST_SNR_DB = -8  # further down, noise within the RSSI would look like a slope
MOST_OUTSIDE = 0.05  # of a visit's frames that may lie beyond
BELIEVED = 3.0  # ln of the Bayes factor against slope 1


@dataclass(frozen=True, slots=True, kw_only=True)
class RssiSlope:
    """The slope of one type of receiver, from so many visits, and the level it turns about [dBm]."""

    module_type: str
    slope: Estimate
    visits: int
    pivot_dbm: float
    believed: bool

    @property
    def relative_sd(self) -> float:
        """Return how far off the slope may be, as a share of it."""
        return (self.slope.high - self.slope.low) / 3.92 / self.slope.estimate

    def straight(self, dbm: float) -> float:
        """Return what a reading would be on a scale of true dB [dBm]."""
        return self.pivot_dbm + (dbm - self.pivot_dbm) / self.slope.estimate


def slopes_of(
    visits: Sequence[VisitSummary], module_types: Sequence[str], links: Sequence[object]
) -> dict[str, RssiSlope]:
    """Return the slope of each type of receiver whose visits can tell one.

    Parameters
    ----------
    module_types, links
        What receives at each visit, and the link it is of; links may differ by an offset.
    """
    found = {}
    for module in sorted({one for one in module_types if one}):
        own = [i for i, one in enumerate(module_types) if one == module]
        told = _slope([visits[i] for i in own], [links[i] for i in own], module)
        if told is not None:
            found[module] = told
    return found


def straightened(visit: VisitSummary, slope: RssiSlope) -> VisitSummary:
    """Return a visit with its levels and noise on a scale of true dB.

    The mean RSSI stays as it was read.
    """
    a, to = slope.slope.estimate, slope.straight
    return replace(
        visit,
        level_mean_dbm=None if visit.level_mean_dbm is None else to(visit.level_mean_dbm),
        level_squares=visit.level_squares / a**2,
        level_counts=tuple((to(dbm), n) for dbm, n in visit.level_counts),
        rssi_counts=tuple((to(dbm), n) for dbm, n in visit.rssi_counts),
        noise_mean_dbm=None if visit.noise_mean_dbm is None else to(visit.noise_mean_dbm),
        level_runs=replace(visit.level_runs, products=visit.level_runs.products / a**2),
    )


@dataclass(frozen=True, slots=True)
class _Point:
    """A visit: its means, and sums of squares and products about them [dB^2]."""

    link: object
    frames: int
    snr_db: float
    level: float
    noise_dbm: float | None
    xx: float
    xy: float
    yy: float


@dataclass(frozen=True, slots=True)
class _Found:
    slope: float
    sd: float


def _slope(
    visits: Sequence[VisitSummary], links: Sequence[object], module: str
) -> RssiSlope | None:
    top = max((step for v in visits for step, *_ in v.by_snr), default=0)
    pairs = zip(visits, links, strict=True)
    points = [point for v, link in pairs if (point := _point(v, link, top)) is not None]
    ways = [found for found in (_inside(points), _between(points)) if found is not None]
    if not ways:
        return None
    weights = [1 / one.sd**2 for one in ways]
    a = sum(w * one.slope for w, one in zip(weights, ways, strict=True)) / sum(weights)
    # where both ways contradict each other, neither is as sure as it says
    apart = sum(w * (one.slope - a) ** 2 for w, one in zip(weights, ways, strict=True))
    sd = float(np.hypot(np.sqrt(max(apart, 1.0) / sum(weights)), FLOOR_SD))
    weight = PRIOR_SD**2 / (PRIOR_SD**2 + sd**2)
    middle, reach = 1 + weight * (a - 1), 1.96 * sd * float(np.sqrt(weight))
    gain = 0.5 * log(1 - weight) + 0.5 * (a - 1) ** 2 * weight / sd**2
    noises = [one.noise_dbm for one in points if one.noise_dbm is not None]
    return RssiSlope(
        module_type=module,
        slope=Estimate(middle, middle - reach, middle + reach),
        visits=len(points),
        pivot_dbm=float(np.median(noises or [one.level - one.snr_db for one in points])),
        believed=gain > BELIEVED,
    )


def _inside(points: Sequence[_Point]) -> _Found | None:
    """Return the slope inside visits, frame by frame."""
    frames = sum(one.frames - 1 for one in points)
    xx, xy, yy = (sum(getattr(one, name) for one in points) for name in ("xx", "xy", "yy"))
    if frames < LEAST_INSIDE or xx < frames * LEAST_SPREAD_DB**2 or xy <= 0:
        return None
    low, high = xy / xx, yy / xy
    a = (yy - xx + float(np.hypot(yy - xx, 2 * xy))) / (2 * xy)
    left = max(yy - xy**2 / xx, 0.0) / frames
    chance = float(np.sqrt(left / xx))
    return _Found(a, float(np.hypot(chance, (high - low) / np.sqrt(12))))


def _between(points: Sequence[_Point]) -> _Found | None:
    """Return the slope from visit to visit; links may differ by an offset."""
    freedom = len(points) - len({one.link for one in points}) - 1
    if len(points) < LEAST_VISITS or freedom < LEAST_VISITS - 3:
        return None
    read = all(one.noise_dbm is not None for one in points)
    x = _within_links([one.snr_db for one in points], points)
    y = _within_links(
        [one.level - (one.noise_dbm or 0.0 if read else 0.0) for one in points], points
    )
    if np.ptp(x) < LEAST_SPAN_DB:
        return None
    a = float(x @ y / (x @ x))
    left = y - a * x
    sd = float(np.sqrt(left @ left / freedom / (x @ x)))
    return _Found(a, max(sd, FLOOR_SD / 2) * float(stdtrit(freedom, 0.975)) / 1.96)


def _point(visit: VisitSummary, link: object, top: int) -> _Point | None:
    """Return a visit's figures, None where S/N of some of its frames may not count in dB."""
    steps = np.array(visit.by_snr, dtype=np.float64).reshape(-1, 3)
    snr, count, level = steps.T
    frames = float(count.sum())
    beyond = count[(snr < LOWEST_SNR_DB) | (snr >= top - TOP_DB)].sum()
    if frames < LEAST_FRAMES or beyond > MOST_OUTSIDE * frames:
        return None
    x, y = float(count @ snr / frames), float(count @ level / frames)
    known = visit.noise_mean_dbm is not None and not visit.noise_derived
    return _Point(
        link=link,
        frames=int(frames),
        snr_db=x,
        level=y,
        noise_dbm=visit.noise_mean_dbm if known else None,
        xx=float(count @ (snr - x) ** 2),
        xy=float(count @ ((snr - x) * (level - y))),
        yy=visit.level_squares * frames / max(visit.heard_with_level, 1),
    )


def _within_links(values: Sequence[float], points: Sequence[_Point]) -> Floats:
    """Return values less the mean of their link."""
    found = np.array(values, dtype=np.float64)
    for link in {one.link for one in points}:
        rows = [i for i, one in enumerate(points) if one.link == link]
        found[rows] -= found[rows].mean()
    return found
