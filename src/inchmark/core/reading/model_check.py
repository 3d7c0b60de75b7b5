"""Whether the model describes the visits, and what another prior would make of the answer."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

import numpy as np

from inchmark.core.interval import Estimate
from inchmark.core.link_model.hypers import NoFitError
from inchmark.core.link_model.law import PathLaw
from inchmark.core.normal import ndtr
from inchmark.core.reading.analysis import Analysis, fit_rows
from inchmark.core.reading.links import Ground
from inchmark.core.reading.ranges import Deciding, link_range
from inchmark.core.reading.result import Check, Move, RssiScale

MOVES_ABOVE = 1 / 3  # of its interval's width: worth saying
SPREAD_MIN_HEARD = 20
LOOSE_THRESHOLD, LOOSE_EXPONENT_SD = 2.0, 2.0


def check_of(analysis: Analysis, by: Mapping[str, Deciding]) -> Check | None:
    """Return how well the visits are described, None without a fit."""
    if analysis.posterior is None:
        return None
    outside = sum(_outside(analysis, i) for i in range(len(analysis.visits)))
    return Check(
        visits=len(analysis.visits),
        outside=outside,
        residual_slope_db=_residual_slope(analysis),
        rssi_slopes=tuple(
            RssiScale(module=one.module_type, slope=one.slope, applied=one.believed)
            for one in analysis.rssi_slopes.values()
        ),
        spread_ratio=spread_ratio(analysis),
        moves=tuple(_moves(analysis, by)),
    )


def _outside(analysis: Analysis, i: int) -> bool:
    """Tell whether a visit's count of losses lies outside the band its level leads one to expect."""
    p, used = analysis.posterior, analysis.used[i]
    if p is None or (analysis.fit and i in analysis.fit.interfered):
        return False
    frame, floor = float(np.median(p.spreads.frame_db)), float(np.median(p.spreads.floor))
    z = (float(p.visits.mean_dbm[i]) - float(p.visits.threshold_dbm[i])) / frame
    share = 1 - (1 - floor) * float(ndtr(z))
    level = float(p.visits.sd_db[i]) / frame * float(np.exp(-(z**2) / 2)) / np.sqrt(2 * np.pi)
    threshold = float(np.median(p.spreads.sigma_t)) / frame
    threshold *= float(np.exp(-(z**2) / 2)) / np.sqrt(2 * np.pi)
    counted = share * (1 - share) * analysis.tau_of(i) / used.sent
    spread = float(np.sqrt(counted + level**2 + threshold**2))
    return abs(used.lost / used.sent - share) > 1.96 * spread + 0.5 / used.sent


def _residual_slope(analysis: Analysis) -> Estimate | None:
    """Return how the levels run away from the law with distance [dB per factor ten]."""
    p = analysis.posterior
    if p is None or len(analysis.distances_m) < 4:
        return None
    x = np.log10(p.data.distance_m)
    y = p.visits.mean_dbm - p.visits.expected_dbm
    x = x - x.mean()
    slope = float(np.sum(x * y) / np.sum(x**2))
    error = float(np.sqrt(np.sum((y - y.mean() - slope * x) ** 2) / max(len(x) - 2, 1)))
    reach = 1.96 * error / float(np.sqrt(np.sum(x**2)))
    return Estimate(slope, slope - reach, slope + reach)


def spread_ratio(analysis: Analysis) -> float | None:
    """Return how frames spread in strong visits over weak ones, none of them cut by losses."""
    clip = analysis.fit.clip_dbm if analysis.fit else None
    rows = [
        (one.level_mean_dbm or 0.0, one.level_squares / (one.heard_with_level - 1))
        for one in analysis.used
        if one.heard_with_level >= SPREAD_MIN_HEARD
        and one.lost <= 0.02 * one.sent
        and (clip is None or one.rssi_counts[-1][0] < clip)
    ]
    if len(rows) < 4:
        return None
    rows.sort()
    half = len(rows) // 2
    weak, strong = (np.mean([v for _, v in part]) for part in (rows[:half], rows[-half:]))
    return float(np.sqrt(strong / weak)) if weak > 0 else None


def _moves(analysis: Analysis, by: Mapping[str, Deciding]) -> Iterator[Move]:
    """Yield the answers that another prior moves by more than a third of their interval."""
    fit, p = analysis.fit, analysis.posterior
    if fit is None or p is None or not analysis.slope_known():
        return
    law = p.data.law
    loose = replace(law, prior_sd=tuple(LOOSE_EXPONENT_SD * sd for sd in law.prior_sd))
    for words, doubt, other in (
        ("thresholds twice as doubtful", LOOSE_THRESHOLD, law),
        ("any slope as likely", 1.0, loose),
    ):
        again = _again(analysis, other, doubt)
        if again is not None:
            yield from _moved(analysis, again, by, words)


def _moved(
    analysis: Analysis, again: Analysis, by: Mapping[str, Deciding], words: str
) -> Iterator[Move]:
    """Yield the rigs whose range another fit moves by more than a third of its interval."""
    for rig, decided in by.items():
        before, after = link_range(analysis, decided.link), link_range(again, decided.link)
        if before is None or after is None:
            continue
        width = np.log(before.high / before.low)
        shift = float(np.log(after.estimate / before.estimate) / max(width, 1e-6))
        if abs(shift) > MOVES_ABOVE:
            yield Move(rig=rig, prior=words, range_m=after, shift=shift)


def _again(analysis: Analysis, law: PathLaw, doubt: float) -> Analysis | None:
    fit = analysis.fit
    if fit is None:
        return None
    ground = Ground(rigs=analysis.facts, stops=analysis.stops, site=analysis.site)
    try:
        noise = fit.posterior.data.reference_noise_dbm
        found = fit_rows(analysis.rows, ground, noise, law, fit.structure, threshold_doubt=doubt)
    except NoFitError:
        return None
    return replace(analysis, fit=found, laws=None, memo={})
