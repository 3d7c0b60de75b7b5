"""The reading of measured visits: the fit's answers as records, ranges held to what is possible."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from inchmark.core.interval import Estimate
from inchmark.core.link_model import ranges as fitted
from inchmark.core.link_model.data import LinkKey
from inchmark.core.link_model.posterior import Posterior, summarise
from inchmark.core.reading import comparing
from inchmark.core.reading.analysis import Analysis, Walked, analyse_visits
from inchmark.core.reading.bearings import bearings_of
from inchmark.core.reading.expected import NeededPlace
from inchmark.core.reading.guidance import Looked, guidance_of
from inchmark.core.reading.model_check import check_of
from inchmark.core.reading.notes import notes_of
from inchmark.core.reading.places import served_places
from inchmark.core.reading.ranges import deciding, exchanges
from inchmark.core.reading.result import Curve, CurvePoint, Exchange, Reading, SiteReading
from inchmark.core.reading.rows import flags, link_reading, rig_reading, visit_reading
from inchmark.core.reading.rules import MIN_STOPS_SHADOWING, RangeRules
from inchmark.core.reading.units import split_by_unit

CURVE_POINTS = 48
NEARER, FARTHER = 0.8, 1.6  # times the nearest and farthest stop: what curves are drawn over


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What is wanted beside the answer: a needed distance [m], curves to draw, units apart.

    Without a needed distance, levels are still wanted at `drawn_m` where it is given. `unit_of`
    gives the serial of the unit carried, by walk and rig. `check` fits again under other priors.
    """

    needed_m: float | None = None
    drawn_m: float | None = None
    curves: bool = False
    check: bool = False
    unit_of: Mapping[tuple[str, str], str] | None = None
    looked: Looked | None = None  # guidance is wanted, from this
    places: tuple[NeededPlace, ...] = ()
    fixed: tuple[float, float] | None = None  # where the fixed end stands [degrees], for places


def read_visits(
    walked: Walked, *, rules: RangeRules | None = None, asked: Asked | None = None
) -> Reading:
    """Return what visits say, each with at least one frame sent."""
    asked = asked or Asked()
    analysis = analyse_visits(walked, rules=rules)
    by = {rig: deciding(analysis, rig) for rig in analysis.rigs}
    links = {link: link_reading(analysis, link) for link in analysis.links}
    wanted_m = asked.needed_m or asked.drawn_m
    return Reading(
        rules=analysis.rules,
        needed_m=asked.needed_m,
        site=_site(analysis),
        rigs=tuple(
            rig_reading(analysis, rig, one, links[one.link], wanted_m) for rig, one in by.items()
        ),
        differences=tuple(comparing.differences(analysis, by)),
        visits=tuple(visit_reading(analysis, i) for i in range(len(analysis.visits))),
        notes=tuple(notes_of(analysis)),
        curves=tuple(_curve(analysis, one.link) for one in by.values()) if asked.curves else (),
        units=tuple(split_by_unit(walked, asked.unit_of or {})),
        why_no_fit=analysis.why_no_fit,
        links=tuple(replace(one, judged=by[link.rig].link == link) for link, one in links.items()),
        exchanges=tuple(Exchange(rig=a, receiver=b, range_m=c) for a, b, c in exchanges(analysis)),
        receivers=tuple(comparing.receivers(analysis)),
        penalties=tuple(comparing.penalties(analysis, by)),
        penalty_pairs=tuple(comparing.penalty_pairs(analysis)),
        flags=tuple(flags(analysis)),
        bearings=bearings_of(analysis),
        check=check_of(analysis, by) if asked.check else None,
        guidance=guidance_of(analysis, by, asked.looked) if asked.looked else None,
        served=tuple(served_places(analysis, by, asked.places, asked.fixed))
        if asked.places
        else (),
    )


def _site(analysis: Analysis) -> SiteReading:
    p, slope = analysis.posterior, analysis.slope_known()
    rules = analysis.rules
    scatter = slope and analysis.stop_count >= MIN_STOPS_SHADOWING
    return SiteReading(
        exponent=summarise(p.exponent) if p is not None and slope and analysis.has_levels else None,
        shadowing_db=summarise(p.shadowing_db) if p is not None and scatter else None,
        kept_for_places_db=(
            fitted.kept_for_places_db(p, loss=rules.loss, places=rules.places)
            if p is not None and slope
            else None
        ),
        frames_per_independent_frame=analysis.tau,
        clip_dbm=analysis.fit.clip_dbm if analysis.fit else None,
        penalties_db=tuple(_mean_penalties(p)),
        frames_per_independent_level=analysis.level_tau,
        law=p.data.law.name if p is not None else "",
        break_m=analysis.site.break_m,
        noise_dbm=p.data.reference_noise_dbm if p is not None else None,
        condition=analysis.conditions[0] if analysis.conditions else "",
        wall_factor=summarise(np.maximum(p.wall_factor, 0.0))  # no wall gives level back
        if p is not None and p.wall_factor is not None
        else None,
        walls_needed_db=_walls_needed_db(analysis),
    )


def _walls_needed_db(analysis: Analysis) -> tuple[tuple[str, float], ...]:
    """Return what walls cost each rig at the needed distance, along the walked bearings [dB]."""
    p, needed = analysis.posterior, analysis.site.needed_m
    if p is None or p.wall_factor is None or needed is None:
        return ()
    factor, at = float(np.median(p.wall_factor)), np.array(needed)
    return tuple(
        (rig, factor * float(p.data.law.of_rig(rig).walls_along_db(at))) for rig in analysis.rigs
    )


def _mean_penalties(p: Posterior | None) -> Iterator[tuple[str, Estimate]]:
    if p is not None:
        for name in p.data.conditions[1:]:
            own = [i for i, (_, condition) in enumerate(p.data.penalties) if condition == name]
            yield name, summarise(np.mean(p.penalty[:, own], axis=1))


def _curve(analysis: Analysis, link: LinkKey) -> Curve:
    """Return delivery and level over distance, for drawing."""
    p, d = analysis.posterior, analysis.distances_m
    if p is None or not analysis.slope_known():
        return Curve(rig=link.rig, points=())
    heard, known = analysis.heard_on(link) > 0, analysis.threshold_known(link)
    shown, margin = heard and analysis.has_levels, analysis.margin_db(p, link)
    p = p.of_rig(link.rig)
    return Curve(
        rig=link.rig,
        points=tuple(
            CurvePoint(
                distance_m=x,
                level_dbm=p.path_db(link, x) if shown else None,
                delivery=fitted.delivery(p, margin, x) if known else None,
            )
            for x in np.geomspace(d[0] * NEARER, d[-1] * FARTHER, CURVE_POINTS).tolist()
        ),
    )
