"""Measured visits with the fit behind them: what everything a reading says is computed from."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, partial
from typing import Any, TypeVar

import numpy as np

from inchmark.core.checks import Floats
from inchmark.core.interval import Estimate, Interval
from inchmark.core.link_model.data import FitVisit, LinkKey, reference_first
from inchmark.core.link_model.fit import Fit, fit_link_model
from inchmark.core.link_model.hypers import CONTRADICTION, NoFitError
from inchmark.core.link_model.law import PathLaw
from inchmark.core.link_model.posterior import Posterior
from inchmark.core.link_model.priors import Structure
from inchmark.core.reading.laws import LawFit, fitted_law
from inchmark.core.reading.links import (
    Ground,
    fit_visits,
    link_priors,
    receiving_module,
    with_directions,
)
from inchmark.core.reading.measured import (
    MeasuredVisit,
    RigFacts,
    SiteFacts,
    StopFacts,
)
from inchmark.core.reading.rssi_slope import RssiSlope, slopes_of, straightened
from inchmark.core.reading.rules import (
    BRACKET_LOSS,
    EDGE_LOSS,
    MIN_SPREAD_EXPONENT,
    MIN_STOPS_EXPONENT,
    RangeRules,
)
from inchmark.core.reception.bursts import autocorrelation_time, loss_interval, visit_tau
from inchmark.core.reception.changes import counts_as_change
from inchmark.core.reception.level_runs import level_time, level_variance_factor
from inchmark.core.reception.visit import VisitSummary

Answer = TypeVar("Answer")

MODEL_VERSION = "5"  # of the link model; raised when a figure could change
SEED = 20_26  # draws are repeatable: the same log gives the same figures


@dataclass(frozen=True, slots=True, kw_only=True)
class Walked:
    """Everything a reading is made from but the rules: visits, and what is known around them.

    `reference_noise_dbm` is the noise at which sensitivities hold and ranges are stated; the
    median of the visits if None.
    """

    visits: tuple[MeasuredVisit, ...]
    facts: Mapping[str, RigFacts]
    stops: Mapping[str, StopFacts]
    site: SiteFacts
    reference_noise_dbm: float | None = None


@dataclass(frozen=True, kw_only=True)
class Analysis:
    """Visits with what is known of rigs and stops, and their fit (None where there is none)."""

    visits: tuple[MeasuredVisit, ...]
    used: tuple[VisitSummary, ...]  # the summary each visit is fitted with
    rows: tuple[FitVisit, ...]
    rigs: tuple[str, ...]
    facts: Mapping[str, RigFacts]
    stops: Mapping[str, StopFacts]
    site: SiteFacts
    rules: RangeRules
    tau: float
    level_tau: float
    fit: Fit | None
    laws: LawFit | None = None
    rssi_slopes: Mapping[str, RssiSlope] = field(default_factory=dict)  # by type of receiver
    why_no_fit: str = ""
    memo: dict[object, Any] = field(default_factory=dict, compare=False)  # answers given before

    def once(self, key: object, answer: Callable[[], Answer]) -> Answer:
        """Return an answer, worked out the first time it is asked for."""
        if key not in self.memo:
            self.memo[key] = answer()
        found: Answer = self.memo[key]
        return found

    @property
    def ground(self) -> Ground:
        """Return what is known around the visits."""
        return Ground(rigs=self.facts, stops=self.stops, site=self.site)

    @property
    def posterior(self) -> Posterior | None:
        """Return the fitted posterior, None where nothing could be fitted."""
        return self.fit.posterior if self.fit else None

    @cached_property
    def distances_m(self) -> list[float]:
        """Return the distances walked to, nearest first."""
        return sorted({row.distance_m for row in self.rows})

    @cached_property
    def stop_count(self) -> int:
        """Return how many stops were visited, however many share a distance."""
        return len({v.key.stop for v in self.visits})

    @cached_property
    def links(self) -> tuple[LinkKey, ...]:
        """Return the links walked, in order."""
        return tuple(sorted({row.link for row in self.rows}))

    @cached_property
    def conditions(self) -> tuple[str, ...]:
        """Return the conditions walked, the reference first."""
        walked = [v.key.condition for v in self.visits]
        return reference_first(walked, self.site.reference_condition)

    @cached_property
    def changed(self) -> tuple[int, ...]:
        """Return the visits of which a stretch is left out."""
        pairs = enumerate(zip(self.visits, self.used, strict=True))
        return tuple(i for i, (v, used) in pairs if used.sent < v.summary.sent)

    def links_of(self, rig: str) -> list[LinkKey]:
        """Return the links of a rig."""
        return [link for link in self.links if link.rig == rig]

    def visits_of(self, rig: str) -> list[MeasuredVisit]:
        """Return the visits of a rig."""
        return [v for v in self.visits if v.key.rig == rig]

    def indices_of(self, link: LinkKey) -> list[int]:
        """Return the visits of a link by their numbers."""
        return [i for i, row in enumerate(self.rows) if row.link == link]

    def hears_alike(self, link: LinkKey) -> list[LinkKey]:
        """Return the links that have one threshold with a link, itself among them."""
        p = self.posterior
        if p is None:
            return [link]
        of = p.data.threshold_of
        return [one for i, one in enumerate(p.data.links) if of[i] == of[p.index(link)]]

    def edge_shown(self, link: LinkKey) -> bool:
        """Tell whether some visit, not disturbed, surely lost some and surely not all."""
        low, high = EDGE_LOSS
        for one in self.hears_alike(link):
            for i in self.indices_of(one):
                if self.fit and i in self.fit.interfered:
                    continue
                loss = self.loss_of(i)
                if loss.low > low and loss.high < high:
                    return True
        return False

    def edge_bracketed(self, link: LinkKey) -> bool:
        """Tell whether the edge lies between visits that lost next to nothing and nearly all."""
        low, high = BRACKET_LOSS
        used = [self.used[i] for one in self.hears_alike(link) for i in self.indices_of(one)]
        lost = [one.lost / one.sent for one in used]
        return min(lost) < low and max(lost) > high

    def heard(self, rig: str) -> int:
        """Return the frames heard of a rig."""
        return sum(v.summary.heard for v in self.visits_of(rig))

    def heard_on(self, link: LinkKey) -> int:
        """Return the frames heard on a link."""
        return sum(self.used[i].heard for i in self.indices_of(link))

    def sensitivity_known(self, link: LinkKey) -> bool:
        """Tell whether bench or datasheet says where a link stops hearing."""
        p = self.posterior
        return p is not None and p.data.priors[p.index(link)].sensitivity_dbm is not None

    def threshold_known(self, link: LinkKey) -> bool:
        """Tell whether walk, bench or datasheet says where a link stops hearing."""
        if self.posterior is None or not self.heard_on(link):
            return False
        return self.sensitivity_known(link) or self.edge_shown(link) or self.edge_bracketed(link)

    def noise_shift_db(self, link: LinkKey) -> float:
        """Return by how much louder than the reference a link is judged [dB]."""
        p = self.posterior
        if p is None or not self.rules.own_noise:
            return 0.0
        return float(np.median([p.data.noise_shift[i] for i in self.indices_of(link)]))

    def margin_db(self, p: Posterior, link: LinkKey, condition: str = "") -> Floats:
        """Return a link's margin at the centre distance by the draws of a fit [dB].

        At the noise it is judged at: one for all, or that of its own visits.
        """
        found: Floats = p.margin(link, condition) - self.noise_shift_db(link)
        return found

    @property
    def has_levels(self) -> bool:
        """Tell whether some frame was heard with a level."""
        return any(one.heard_with_level for one in self.used)

    def slope_known(self) -> bool:
        """Tell whether the stops can carry a slope."""
        d = self.distances_m
        return (
            self.posterior is not None
            and self.stop_count >= MIN_STOPS_EXPONENT
            and d[-1] / d[0] >= MIN_SPREAD_EXPONENT
        )

    def tau_of(self, i: int) -> float:
        """Return how many frames of a visit are worth one independent frame."""
        return visit_tau(self.used[i].runs, self.used[i].lost, self.tau)

    def level_of(self, i: int) -> Estimate | None:
        """Return the level of visit i [dBm], lost frames counted, with what its frames are worth."""
        p, used = self.posterior, self.used[i]
        link = self.rows[i].link
        if p is None or not (used.heard_with_level or self.threshold_known(link)):
            return None
        if not self.has_levels:
            return None
        mean = float(p.visits.mean_dbm[i])
        sd = float(np.hypot(self._level_sd_db(p, i), self._scale_sd_db(link, mean)))
        return Estimate(mean, mean - 1.96 * sd, mean + 1.96 * sd)

    def _level_sd_db(self, p: Posterior, i: int) -> float:
        """Return how far off the level of visit i may be by its frames [dB]."""
        sd, information = float(p.visits.sd_db[i]), float(p.visits.information[i])
        if information <= 0:
            return sd
        factor = level_variance_factor(self.level_tau, self.used[i].heard)
        share = float(p.visits.own_share[i])
        return float(np.sqrt(sd**2 + share**2 * max(factor - 1, 0.0) / information))

    def _scale_sd_db(self, link: LinkKey, dbm: float) -> float:
        """Return how far off a level is by the slope of the RSSI it was brought to dB with [dB]."""
        slope = self.rssi_slopes.get(receiving_module(link, self.ground))
        if slope is None or not slope.believed:
            return 0.0
        return abs(dbm - slope.pivot_dbm) * slope.relative_sd

    def in_hand_db(self, i: int) -> Estimate | None:
        """Return how far the level of visit i lies above its link's threshold [dB]."""
        p, link = self.posterior, self.rows[i].link
        if p is None or not self.threshold_known(link):
            return None
        threshold = p.threshold[:, p.index(link)]
        middle = float(np.median(threshold)) + float(p.data.noise_shift[i])
        mean = float(p.visits.mean_dbm[i]) - middle
        sd = self._level_sd_db(p, i) if self.has_levels else float(p.visits.sd_db[i])
        both = float(np.hypot(sd, np.std(threshold)))
        return Estimate(mean, mean - 1.96 * both, mean + 1.96 * both)

    def reads_high_db(self, i: int) -> float:
        """Return by how much the mean of visit i's heard frames reads high [dB]; 0 if it cannot.

        It misleads where some frames were lost and some heard; losses that level does not explain
        say nothing of it.
        """
        p, s = self.posterior, self.used[i]
        if p is None or s.level_mean_dbm is None or not 0 < s.lost < s.sent:
            return 0.0
        if self.fit and i in self.fit.interfered:
            return 0.0
        return s.level_mean_dbm - float(p.visits.mean_dbm[i])

    def loss_of(self, i: int) -> Estimate:
        """Return the loss of a visit [share] with burst-aware limits."""
        s = self.used[i]
        limits: Interval = loss_interval(s.lost, s.sent, tau=self.tau_of(i))
        return Estimate(s.lost / s.sent, limits.low, limits.high)


def analyse_visits(walked: Walked, *, rules: RangeRules | None = None) -> Analysis:
    """Return visits fitted, each with at least one frame sent."""
    named = with_directions(walked.visits)
    ordered = tuple(sorted(named, key=lambda v: (v.distance_m, v.key)))
    rigs = tuple(sorted({v.key.rig for v in ordered}))
    facts = {rig: walked.facts.get(rig, RigFacts()) for rig in rigs}
    ground = Ground(rigs=facts, stops=walked.stops, site=walked.site)
    level_tau = level_time([v.summary.level_runs for v in ordered])
    rows = fit_visits(ordered, ground)
    hears = [receiving_module(row.link, ground) for row in rows]
    used = _used(ordered, level_tau)
    slopes = slopes_of(used, hears, [row.link for row in rows])
    used = [_in_true_db(one, slopes.get(module)) for one, module in zip(used, hears, strict=True)]
    rows = [replace(row, summary=summary) for row, summary in zip(rows, used, strict=True)]
    found, why = _fit(rows, ground, walked.reference_noise_dbm)
    return Analysis(
        visits=ordered,
        used=tuple(used),
        rows=tuple(rows),
        rigs=rigs,
        facts=facts,
        stops=walked.stops,
        site=walked.site,
        rules=rules or RangeRules(),
        tau=autocorrelation_time([one.runs for one in used]),
        level_tau=level_tau,
        fit=found.fits[0] if found else None,
        laws=found,
        rssi_slopes=slopes,
        why_no_fit=why,
    )


def _used(visits: Sequence[MeasuredVisit], level_tau: float) -> list[VisitSummary]:
    """Return what each visit is fitted with: without a stretch that changed, noise filled in.

    A silent visit takes the median noise of its rig.
    """
    found = []
    for v in visits:
        change = v.summary.change
        if change and counts_as_change(change.stretch, v.summary.sent, level_tau):
            found.append(change.rest)
        else:
            found.append(v.summary)
    usual: dict[str, list[float]] = {}
    for v, one in zip(visits, found, strict=True):
        if one.noise_mean_dbm is not None:
            usual.setdefault(v.key.rig, []).append(one.noise_mean_dbm)
    return [
        replace(one, noise_mean_dbm=float(np.median(usual[v.key.rig])))
        if one.noise_mean_dbm is None and v.key.rig in usual
        else one
        for v, one in zip(visits, found, strict=True)
    ]


def _in_true_db(visit: VisitSummary, slope: RssiSlope | None) -> VisitSummary:
    return straightened(visit, slope) if slope is not None and slope.believed else visit


def _fit(
    rows: Sequence[FitVisit], ground: Ground, reference_noise_dbm: float | None
) -> tuple[LawFit | None, str]:
    if not any(row.summary.heard for row in rows):
        return None, "No frame was heard at any stop, so there is nothing to fit."
    if len({row.distance_m for row in rows}) < 2:
        return None, "All visits are at one distance, so nothing can be said about distance."
    under = partial(fit_rows, rows, ground, reference_noise_dbm)
    try:
        return fitted_law(under, ground.site, sorted({row.distance_m for row in rows})), ""
    except NoFitError as wrong:
        return None, str(wrong)
    except np.linalg.LinAlgError:
        return None, CONTRADICTION


def fit_rows(
    rows: Sequence[FitVisit],
    ground: Ground,
    reference_noise_dbm: float | None,
    law: PathLaw,
    only: Structure | None = None,
    *,
    threshold_doubt: float = 1.0,
) -> Fit:
    """Return rows fitted under a law with all that is known around them.

    Raises
    ------
    NoFitError
        Nowhere within reason of the priors do the data make sense.
    """
    return fit_link_model(
        rows,
        link_priors(rows, ground),
        random=np.random.default_rng(SEED),
        reference_noise_dbm=reference_noise_dbm,
        reference_condition=ground.site.reference_condition,
        receivers=[one.name for one in ground.site.receivers],
        law=law,
        step_db=ground.site.rssi_step_db,
        only=only,
        threshold_doubt=threshold_doubt,
    )
