"""Measured visits with the fit behind them: what everything a reading says is computed from."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from inchmark.core.interval import Estimate, Interval
from inchmark.core.link_model.data import FitVisit
from inchmark.core.link_model.fit import Fit, fit_link_model
from inchmark.core.link_model.hypers import NoFitError
from inchmark.core.link_model.posterior import Posterior
from inchmark.core.reading.measured import MeasuredVisit, RigFacts, StopFacts
from inchmark.core.reading.rules import (
    EDGE_LOSS,
    MIN_SPREAD_EXPONENT,
    MIN_STOPS_EXPONENT,
    RangeRules,
)
from inchmark.core.reception.bursts import autocorrelation_time, loss_interval, visit_tau

MODEL_VERSION = "1"  # of the link model; raised when a figure could change
SEED = 20_26  # draws are repeatable: the same log gives the same figures


@dataclass(frozen=True, slots=True, kw_only=True)
class Analysis:
    """Visits with what is known of rigs and stops, and their fit (None where there is none)."""

    visits: tuple[MeasuredVisit, ...]
    rigs: tuple[str, ...]
    facts: Mapping[str, RigFacts]
    stops: Mapping[str, StopFacts]
    rules: RangeRules
    tau: float
    fit: Fit | None
    why_no_fit: str = ""

    @property
    def posterior(self) -> Posterior | None:
        """Return the fitted posterior, None where nothing could be fitted."""
        return self.fit.posterior if self.fit else None

    @property
    def distances_m(self) -> list[float]:
        """Return the distances of the visited stops, nearest first."""
        return sorted({v.distance_m for v in self.visits})

    def visits_of(self, rig: str) -> list[MeasuredVisit]:
        """Return the visits of a rig."""
        return [v for v in self.visits if v.key.rig == rig]

    def edge_reached(self, rig: str) -> bool:
        """Tell whether some visit lost a share that fixes the threshold."""
        low, high = EDGE_LOSS
        return any(low <= v.summary.lost / v.summary.sent <= high for v in self.visits_of(rig))

    def edge_bracketed(self, rig: str) -> bool:
        """Tell whether the edge lies between visits that lost next to nothing and nearly all."""
        low, high = EDGE_LOSS
        lost = [v.summary.lost / v.summary.sent for v in self.visits_of(rig)]
        return min(lost) < low and max(lost) > high

    def heard(self, rig: str) -> int:
        """Return the frames heard of a rig."""
        return sum(v.summary.heard for v in self.visits_of(rig))

    def threshold_known(self, rig: str) -> bool:
        """Tell whether walk, bench or datasheet says where the rig stops hearing."""
        known = self.facts[rig].prior.sensitivity_dbm is not None
        found = self.edge_reached(rig) or self.edge_bracketed(rig)
        return self.posterior is not None and self.heard(rig) > 0 and (known or found)

    def slope_known(self) -> bool:
        """Tell whether the stops can carry a slope."""
        d = self.distances_m
        return (
            self.posterior is not None
            and len(d) >= MIN_STOPS_EXPONENT
            and d[-1] / d[0] >= MIN_SPREAD_EXPONENT
        )

    def tau_of(self, visit: MeasuredVisit) -> float:
        """Return how many frames of a visit are worth one independent frame."""
        return visit_tau(visit.summary.runs, visit.summary.lost, self.tau)

    def in_hand_db(self, i: int) -> float | None:
        """Return how far the level of visit i lies above its rig's threshold [dB]."""
        p, rig = self.posterior, self.visits[i].key.rig
        if p is None or not self.threshold_known(rig):
            return None
        threshold = float(np.median(p.threshold[:, p.data.rigs.index(rig)]))
        return float(p.visit_level[0, i]) - threshold - float(p.data.noise_shift[i])

    def reads_high_db(self, i: int) -> float:
        """Return by how much the mean of visit i's heard frames reads high [dB]; 0 if it cannot.

        It misleads where some frames were lost and some heard; losses that level does not explain
        say nothing of it.
        """
        p, s = self.posterior, self.visits[i].summary
        if p is None or s.level_mean_dbm is None or not 0 < s.lost < s.sent:
            return 0.0
        if self.fit and i in self.fit.interfered:
            return 0.0
        return s.level_mean_dbm - float(p.visit_level[0, i])

    def loss_of(self, visit: MeasuredVisit) -> Estimate:
        """Return the loss of a visit [share] with burst-aware limits."""
        s = visit.summary
        limits: Interval = loss_interval(s.lost, s.sent, tau=self.tau_of(visit))
        return Estimate(s.lost / s.sent, limits.low, limits.high)


def analyse_visits(
    visits: Sequence[MeasuredVisit],
    facts: Mapping[str, RigFacts] | None = None,
    stops: Mapping[str, StopFacts] | None = None,
    *,
    rules: RangeRules | None = None,
    reference_noise_dbm: float | None = None,
) -> Analysis:
    """Return visits fitted, each with at least one frame sent.

    Parameters
    ----------
    facts, stops
        What is known of rigs and stops, by name; missing ones are read without.
    reference_noise_dbm
        Noise [dBm] at which sensitivities hold; the median of the visits if None.
    """
    ordered = tuple(sorted(visits, key=lambda v: (v.distance_m, v.key)))
    rigs = tuple(sorted({v.key.rig for v in ordered}))
    known = dict(facts or {})
    facts = {rig: known.get(rig, RigFacts()) for rig in rigs}
    tau = autocorrelation_time([v.summary.runs for v in ordered])
    fit, why = _fit(ordered, facts, tau, reference_noise_dbm)
    return Analysis(
        visits=ordered,
        rigs=rigs,
        facts=facts,
        stops=stops or {},
        rules=rules or RangeRules(),
        tau=tau,
        fit=fit,
        why_no_fit=why,
    )


def fit_visits(visits: Iterable[MeasuredVisit]) -> list[FitVisit]:
    """Return visits as the fit takes them."""
    return [
        FitVisit(
            rig=v.key.rig,
            stop=v.key.stop,
            distance_m=v.distance_m,
            condition=v.key.condition,
            summary=v.summary,
        )
        for v in visits
    ]


def _fit(
    visits: Sequence[MeasuredVisit],
    facts: Mapping[str, RigFacts],
    tau: float,
    reference_noise_dbm: float | None,
) -> tuple[Fit | None, str]:
    rows = fit_visits(visits)
    if not any(row.summary.heard_with_level for row in rows):
        return None, "No frame was heard with a signal level, so there is no level to fit."
    if len({row.distance_m for row in rows}) < 2:
        return None, "All visits are at one distance, so nothing can be said about distance."
    priors = {rig: one.prior for rig, one in facts.items()}
    random = np.random.default_rng(SEED)
    try:
        fit = fit_link_model(
            rows, priors, pooled_tau=tau, random=random, reference_noise_dbm=reference_noise_dbm
        )
    except NoFitError as wrong:
        return None, str(wrong)
    return fit, ""
