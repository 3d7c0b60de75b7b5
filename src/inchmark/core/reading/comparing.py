"""Rig against rig, receiver against receiver, condition against condition."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

import numpy as np
from scipy.special import stdtrit

from inchmark.core.checks import Floats
from inchmark.core.interval import Estimate
from inchmark.core.link_model.data import LinkKey
from inchmark.core.link_model.posterior import Posterior, summarise
from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.links import side_by_side
from inchmark.core.reading.ranges import Deciding, link_range, sensible
from inchmark.core.reading.result import (
    Difference,
    Paired,
    Penalty,
    PenaltyPair,
    ReceiverDifference,
)
from inchmark.core.reception.paired import PairedCounts
from inchmark.core.reception.visit import paired_frames


def differences(analysis: Analysis, by: Mapping[str, Deciding]) -> Iterator[Difference]:
    """Yield every rig against the first, over every link and in every condition both walked."""
    against = analysis.rigs[0] if analysis.rigs else ""
    for rig in analysis.rigs[1:]:
        pairs = _shared_links(analysis, rig, against)
        if not pairs:
            yield _difference(analysis, by[rig].link, by[against].link, "", main=True)
            continue
        own = by[rig].link
        chosen = next((one for one, _ in pairs if one == own), pairs[0][0])
        for one, other in pairs:
            for condition in ("", *analysis.conditions[1:]):
                if condition and not _both_walked(analysis, rig, against, condition):
                    continue
                main = one == chosen and not condition
                yield _difference(analysis, one, other, condition, main=main)


def difference_of(analysis: Analysis, rig: str, against: str) -> Difference | None:
    """Return one rig against another over the first link they share, None where there is none."""
    pairs = _shared_links(analysis, rig, against)
    return _difference(analysis, *pairs[0], "", main=True) if pairs else None


def _shared_links(analysis: Analysis, rig: str, against: str) -> list[tuple[LinkKey, LinkKey]]:
    own = {(one.direction, one.receiver): one for one in analysis.links_of(rig)}
    others = {(one.direction, one.receiver): one for one in analysis.links_of(against)}
    return [(own[key], others[key]) for key in own if key in others]


def _both_walked(analysis: Analysis, rig: str, against: str, condition: str) -> bool:
    walked = {v.key.rig for v in analysis.visits if v.key.condition == condition}
    return {rig, against} <= walked


def _difference(
    analysis: Analysis, one: LinkKey, other: LinkKey, condition: str, *, main: bool
) -> Difference:
    p = analysis.posterior
    margin = signal = better = None
    heard = min(analysis.heard_on(one), analysis.heard_on(other)) > 0
    if p is not None and heard and (alike(analysis, one, other) or _one_edge(analysis, one, other)):
        draws = analysis.margin_db(p, one, condition) - analysis.margin_db(p, other, condition)
        margin, better = summarise(draws), float(np.mean(draws > 0))
    if p is not None and heard and one_scale(p, one, other):
        signal = p.signal_difference_db(one, other, condition)
    return Difference(
        rig=one.rig,
        against=other.rig,
        margin_db=margin,
        signal_db=signal,
        direction=one.direction,
        receiver=one.receiver,
        condition=condition,
        main=main,
        first_better=better,
    )


def alike(analysis: Analysis, one: LinkKey, other: LinkKey) -> bool:
    """Tell whether the margins of two links can be compared: both thresholds are known."""
    return analysis.threshold_known(one) and analysis.threshold_known(other)


def _one_edge(analysis: Analysis, one: LinkKey, other: LinkKey) -> bool:
    """Tell whether two links have one threshold, so that their levels compare whatever it is."""
    return other in analysis.hears_alike(one)


def one_scale(p: Posterior, one: LinkKey, other: LinkKey) -> bool:
    """Tell whether two links are read on one RSSI scale: the same type of module receives."""
    kinds = [p.data.priors[p.index(link)].module_type for link in (one, other)]
    return kinds[0] == kinds[1] != "" and p.data.data_level_dbm is not None


def receivers(analysis: Analysis) -> Iterator[ReceiverDifference]:
    """Yield each receiver against the first of its direction."""
    p = analysis.posterior
    if p is None:
        return
    for direction, first in p.data.first_receiver.items():
        links = [one for one in analysis.links if one.direction == direction]
        for name in sorted({one.receiver for one in links} - {first}):
            yield _receiver(analysis, p, direction, name, first)


def _receiver(
    analysis: Analysis, p: Posterior, direction: str, name: str, first: str
) -> ReceiverDifference:
    rigs = [
        rig
        for rig in analysis.rigs
        if {LinkKey(rig, direction, name), LinkKey(rig, direction, first)} <= set(analysis.links)
    ]
    level = margin = None
    if rigs:
        pairs = [(LinkKey(r, direction, name), LinkKey(r, direction, first)) for r in rigs]
        levels = [p.level[:, p.index(a)] - p.level[:, p.index(b)] for a, b in pairs]
        level = summarise(np.mean(levels, axis=0)) if one_scale(p, *pairs[0]) else None
        known = [(a, b) for a, b in pairs if alike(analysis, a, b)]
        if known:
            margin = summarise(np.mean([p.margin(a) - p.margin(b) for a, b in known], axis=0))
    found = ReceiverDifference(
        receiver=name, against=first, direction=direction, level_db=level, margin_db=margin
    )
    if not side_by_side(analysis.site, name, first):
        return found
    return replace(found, paired=_paired(analysis, direction, name, first))


def _paired(analysis: Analysis, direction: str, name: str, first: str) -> Paired | None:
    """Return how both heard the same transmissions, over all visits they share."""
    visits = {v.key: v.summary for v in analysis.visits if v.key.direction == direction}
    cells = np.zeros(4, dtype=int)
    for key, summary in visits.items():
        if key.receiver != name:
            continue
        twin = next(
            (
                one
                for other, one in visits.items()
                if other.receiver == first
                and (other.rig, other.stop, other.condition, other.walk)
                == (key.rig, key.stop, key.condition, key.walk)
            ),
            None,
        )
        found = paired_frames(summary, twin) if twin else None
        if found:
            cells += [found.both, found.first, found.second, found.neither]
    if not cells.sum():
        return None
    both, one, other, neither = (int(x) for x in cells)
    counts = PairedCounts(both=both, first=one, second=other, neither=neither)
    limits = counts.interval()
    return Paired(
        both=both,
        first=one,
        second=other,
        neither=neither,
        difference=Estimate(counts.difference, limits.low, limits.high),
        exact_p=counts.exact_p(),
    )


def penalties(analysis: Analysis, by: Mapping[str, Deciding]) -> Iterator[Penalty]:
    """Yield what each condition costs each rig that was walked in it, level and noise apart."""
    p = analysis.posterior
    if p is None:
        return
    for rig, condition in p.data.penalties:
        level = summarise(p.penalty_of(rig, condition)) if analysis.heard(rig) else None
        yield Penalty(
            rig=rig,
            condition=condition,
            level_db=level if analysis.has_levels or level else None,
            noise_db=_noise_cost(analysis, rig, condition),
            range_m=sensible(analysis, link_range(analysis, by[rig].link, condition)),
        )


def _noise_cost(analysis: Analysis, rig: str, condition: str) -> Estimate | None:
    """Return how much louder the noise was at the visits of a condition [dB]."""
    groups = [
        np.array(
            [
                used.noise_mean_dbm
                for v, used in zip(analysis.visits, analysis.used, strict=True)
                if v.key.rig == rig
                and v.key.condition == name
                and used.noise_mean_dbm is not None
                and used.noise_readings
            ]
        )
        for name in (condition, analysis.conditions[0])
    ]
    if min(map(len, groups)) == 0:
        return None
    return mean_difference(*groups)


def mean_difference(one: Floats, other: Floats) -> Estimate:
    """Return the difference of two means with Welch's 95 % limits."""
    found = float(one.mean() - other.mean())
    parts = [float(np.var(x, ddof=1)) / len(x) if len(x) > 1 else np.nan for x in (one, other)]
    error = float(np.sqrt(np.nansum(parts)))
    if not np.all(np.isfinite(parts)) or error == 0:
        return Estimate(found, found - 1.96 * error, found + 1.96 * error)
    freedom = sum(parts) ** 2 / sum(
        part**2 / (len(x) - 1) for part, x in zip(parts, (one, other), strict=True)
    )
    reach = float(stdtrit(freedom, 0.975)) * error
    return Estimate(found, found - reach, found + reach)


def penalty_pairs(analysis: Analysis) -> Iterator[PenaltyPair]:
    """Yield, for each rig, what a condition gives back of a worse one."""
    p = analysis.posterior
    if p is None:
        return
    for rig in analysis.rigs:
        own = [c for r, c in p.data.penalties if r == rig]
        own.sort(key=lambda c: float(np.median(p.penalty_of(rig, c))))
        for i, milder in enumerate(own):
            for worse in own[i + 1 :]:
                gained = summarise(p.penalty_of(rig, worse) - p.penalty_of(rig, milder))
                yield PenaltyPair(rig=rig, condition=milder, against=worse, gained_db=gained)
