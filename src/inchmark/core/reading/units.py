"""Results split by unit: the same rig walked with different pieces, each against the first.

A bad or look-alike piece must show up as a piece, not condemn its type.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from inchmark.core.reading.analysis import Analysis, analyse_visits
from inchmark.core.reading.measured import MeasuredVisit, RigFacts
from inchmark.core.reading.result import UnitReading

UNNAMED = "not named"
SEPARATOR = " · "


def split_by_unit(
    visits: Sequence[MeasuredVisit],
    unit_of: Mapping[tuple[str, str], str],
    facts: Mapping[str, RigFacts],
    *,
    reference_noise_dbm: float | None = None,
) -> list[UnitReading]:
    """Return a row for each unit of each rig that walked with two units or more; else nothing.

    Parameters
    ----------
    unit_of
        (walk, rig) -> serial of the carried unit.
    """
    names = {visit.key: _unit(visit, unit_of) for visit in visits}
    units: dict[str, list[str]] = {}
    for visit in visits:
        own = units.setdefault(visit.key.rig, [])
        if names[visit.key] not in own:
            own.append(names[visit.key])
    several = {rig: own for rig, own in units.items() if len(own) > 1}
    if not several:
        return []
    renamed = [
        replace(visit, key=replace(visit.key, rig=_name(visit.key.rig, names[visit.key])))
        for visit in visits
    ]
    known = {
        _name(rig, unit): facts[rig] for rig, own in units.items() for unit in own if rig in facts
    }
    analysis = analyse_visits(renamed, known, reference_noise_dbm=reference_noise_dbm)
    return [
        _row(analysis, rig, unit, sorted(own)[0])
        for rig, own in sorted(several.items())
        for unit in sorted(own)
    ]


def _unit(visit: MeasuredVisit, unit_of: Mapping[tuple[str, str], str]) -> str:
    return unit_of.get((visit.key.walk, visit.key.rig), UNNAMED)


def _name(rig: str, unit: str) -> str:
    return f"{rig}{SEPARATOR}{unit}"


def _row(analysis: Analysis, rig: str, unit: str, first: str) -> UnitReading:
    own, against = _name(rig, unit), _name(rig, first)
    visits, p = analysis.visits_of(own), analysis.posterior
    walks = sorted({visit.key.walk for visit in visits})
    signal, margin = None, None
    if p is not None and unit != first and min(map(analysis.heard, (own, against))) > 0:
        signal = p.signal_difference_db(own, against)
        if analysis.threshold_known(own) and analysis.threshold_known(against):
            margin = p.margin_difference_db(own, against)
    return UnitReading(
        rig=rig,
        unit=unit,
        against=first if unit != first else "",
        walks=tuple(walks),
        same_walks=walks == sorted({v.key.walk for v in analysis.visits_of(against)}),
        sent=sum(visit.summary.sent for visit in visits),
        heard=sum(visit.summary.heard for visit in visits),
        signal_db=signal,
        margin_db=margin,
    )
