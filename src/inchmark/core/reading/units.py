"""Results split by unit: the same rig walked with different pieces, each against the first.

A bad or look-alike piece must show up as a piece, not condemn its type.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from inchmark.core.reading.analysis import Analysis, Walked, analyse_visits
from inchmark.core.reading.comparing import difference_of
from inchmark.core.reading.measured import MeasuredVisit
from inchmark.core.reading.result import UnitReading

UNNAMED = "not named"
SEPARATOR = " · "


def split_by_unit(walked: Walked, unit_of: Mapping[tuple[str, str], str]) -> list[UnitReading]:
    """Return a row for each unit of each rig that walked with two units or more; else nothing.

    Parameters
    ----------
    unit_of
        (walk, rig) -> serial of the carried unit.
    """
    names = {visit.key: _unit(visit, unit_of) for visit in walked.visits}
    units: dict[str, list[str]] = {}
    for visit in walked.visits:
        own = units.setdefault(visit.key.rig, [])
        if names[visit.key] not in own:
            own.append(names[visit.key])
    several = {rig: own for rig, own in units.items() if len(own) > 1}
    if not several:
        return []
    renamed = tuple(
        replace(visit, key=replace(visit.key, rig=_name(visit.key.rig, names[visit.key])))
        for visit in walked.visits
    )
    known = {
        _name(rig, unit): walked.facts[rig]
        for rig, own in units.items()
        for unit in own
        if rig in walked.facts
    }
    analysis = analyse_visits(replace(walked, visits=renamed, facts=known))
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
    visits = analysis.visits_of(own)
    walks = sorted({visit.key.walk for visit in visits})
    found = None
    if unit != first:
        found = difference_of(analysis, own, against)
    return UnitReading(
        rig=rig,
        unit=unit,
        against=first if unit != first else "",
        walks=tuple(walks),
        same_walks=walks == sorted({v.key.walk for v in analysis.visits_of(against)}),
        sent=sum(visit.summary.sent for visit in visits),
        heard=sum(visit.summary.heard for visit in visits),
        signal_db=found.signal_db if found else None,
        margin_db=found.margin_db if found else None,
    )
