"""What the fit is fed: one row per visit, as arrays, and what was known before."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from inchmark.core.checks import Floats
from inchmark.core.reception.visit import VisitSummary

BINS_ABOVE_LOWEST_DB = 22.0  # further up ln Phi is 0 to double precision for any softness met

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, kw_only=True)
class RigPrior:
    """What is known of a rig before the walk; no sensitivity means the walk alone must tell."""

    module_type: str = ""
    sensitivity_dbm: float | None = None
    conducted: bool = False  # measured on the bench with this unit, not read in a datasheet


@dataclass(frozen=True, slots=True, kw_only=True)
class FitVisit:
    """One visit with its place, ready to be fitted."""

    rig: str
    stop: str
    distance_m: float
    condition: str
    summary: VisitSummary
    ignore_losses: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class FitData:
    """Arrays over visits (V,), with the names their indices stand for."""

    rigs: tuple[str, ...]
    stops: tuple[str, ...]
    conditions: tuple[str, ...]  # the reference condition first
    priors: tuple[RigPrior, ...]
    stop_distance_m: Floats
    centre_m: float
    rig: Ints
    stop: Ints
    condition: Ints
    lost: Floats
    heard_unknown: Floats  # heard, level not logged
    exact: Floats  # heard with a level below the clip
    exact_mean: Floats
    exact_squares: Floats
    clipped: Floats
    bin_level: Floats  # (V, bins)
    bin_count: Floats  # (V, bins), 0 where padded
    noise_shift: Floats
    data_level_dbm: float
    lowest_heard_dbm: Floats = field()  # (R,), NaN for a rig never heard
    clip_dbm: float | None = None
    step_db: float = 1.0

    @property
    def lg_ratio(self) -> Floats:
        """Return 10 lg(d / d_c) of each visit."""
        ratio: Floats = 10 * np.log10(self.stop_distance_m[self.stop] / self.centre_m)
        return ratio


def build_fit_data(
    visits: Sequence[FitVisit],
    priors: Mapping[str, RigPrior],
    *,
    clip_dbm: float | None = None,
    step_db: float = 1.0,
    reference_noise_dbm: float | None = None,
) -> FitData:
    """Return the arrays of a fit.

    Parameters
    ----------
    visits
        At least one, with frames sent; at least one of them heard a frame with a level.
    priors
        By rig; a rig without an entry has no sensitivity.
    clip_dbm
        Reading at and above which a level only says "at least this" [dBm].
    step_db
        Rounding step of the readings [dB].
    reference_noise_dbm
        Noise at which thresholds are stated [dBm]; the median of the visits if None.

    Raises
    ------
    ValueError
        Nothing was heard with a level at any visit.
    """
    rigs = tuple(sorted({v.rig for v in visits}))
    distances = {v.stop: v.distance_m for v in visits}
    stops = tuple(sorted(distances, key=lambda name: (distances[name], name)))
    conditions = _reference_first([v.condition for v in visits])
    split = [_split_at_clip(v.summary, clip_dbm) for v in visits]
    levels = [s.level_mean_dbm for v in visits if (s := v.summary).level_mean_dbm is not None]
    if not levels:
        raise ValueError("visits hold no frame heard with a level")
    bins = _bins(visits, split, rigs)
    stop_distance = np.array([distances[s] for s in stops])
    lost = [0.0 if v.ignore_losses else float(v.summary.lost) for v in visits]
    return FitData(
        rigs=rigs,
        stops=stops,
        conditions=conditions,
        priors=tuple(priors.get(name, RigPrior()) for name in rigs),
        stop_distance_m=stop_distance,
        centre_m=float(np.exp(np.mean(np.log(stop_distance)))),
        rig=np.array([rigs.index(v.rig) for v in visits]),
        stop=np.array([stops.index(v.stop) for v in visits]),
        condition=np.array([conditions.index(v.condition) for v in visits]),
        lost=np.array(lost),
        heard_unknown=np.array(
            [float(v.summary.heard - v.summary.heard_with_level) for v in visits]
        ),
        exact=np.array([one.count for one in split]),
        exact_mean=np.array([one.mean for one in split]),
        exact_squares=np.array([one.squares for one in split]),
        clipped=np.array([one.clipped for one in split]),
        bin_level=bins[0],
        bin_count=bins[1],
        noise_shift=_noise_shift(visits, reference_noise_dbm),
        data_level_dbm=float(np.mean(levels)),
        lowest_heard_dbm=_lowest_heard(visits, rigs),
        clip_dbm=clip_dbm,
        step_db=step_db,
    )


@dataclass(frozen=True, slots=True)
class _Split:
    count: float
    mean: float
    squares: float
    clipped: float
    counts: tuple[tuple[float, int], ...]


def _split_at_clip(summary: VisitSummary, clip_dbm: float | None) -> _Split:
    below = summary.level_counts
    if clip_dbm is not None:
        below = tuple((level, n) for level, n in below if level < clip_dbm - 0.01)
    count = float(sum(n for _, n in below))
    clipped = summary.heard_with_level - count
    if clipped == 0:
        mean = summary.level_mean_dbm or 0.0
        return _Split(count, mean, summary.level_squares, 0.0, below)
    levels = np.array([level for level, _ in below])
    weights = np.array([n for _, n in below], dtype=np.float64)
    mean = float(np.average(levels, weights=weights)) if count else 0.0
    squares = float(np.sum(weights * (levels - mean) ** 2)) if count else 0.0
    return _Split(count, mean, squares, clipped, below)


def _bins(
    visits: Sequence[FitVisit], split: Sequence[_Split], rigs: Sequence[str]
) -> tuple[Floats, Floats]:
    lowest = dict(zip(rigs, _lowest_heard(visits, rigs), strict=True))
    kept = [
        [(a, n) for a, n in one.counts if a <= lowest[v.rig] + BINS_ABOVE_LOWEST_DB]
        for v, one in zip(visits, split, strict=True)
    ]
    width = max((len(one) for one in kept), default=0) or 1
    level, count = np.zeros((len(visits), width)), np.zeros((len(visits), width))
    for row, one in enumerate(kept):
        for column, (a, n) in enumerate(one):
            level[row, column], count[row, column] = a, n
    return level, count


def _lowest_heard(visits: Sequence[FitVisit], rigs: Sequence[str]) -> Floats:
    lowest = np.full(len(rigs), np.nan)
    for v in visits:
        if v.summary.level_counts:
            r = rigs.index(v.rig)
            lowest[r] = np.fmin(lowest[r], v.summary.level_counts[0][0])
    return lowest


def _reference_first(conditions: Sequence[str]) -> tuple[str, ...]:
    """Return the condition names, the reference first: so named, unnamed, or the commonest."""
    names = sorted(set(conditions), key=lambda c: (-conditions.count(c), c))
    for reference in ("reference", ""):
        if reference in names:
            names.remove(reference)
            return (reference, *names)
    return tuple(names)


def _noise_shift(visits: Sequence[FitVisit], reference_dbm: float | None) -> Floats:
    noise = np.array([np.nan if (x := v.summary.noise_mean_dbm) is None else x for v in visits])
    known = noise[np.isfinite(noise)]
    if reference_dbm is None:
        reference_dbm = float(np.median(known)) if len(known) else 0.0
    return np.where(np.isfinite(noise), noise - reference_dbm, 0.0)
