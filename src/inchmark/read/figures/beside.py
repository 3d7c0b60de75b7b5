"""Predicted beside measured, stop by stop, and walk beside walk."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from inchmark.core.reading.beside import (
    BesidePlan,
    BesideRow,
    WalkChange,
    beside_plan,
    walk_changes,
)
from inchmark.core.reading.measured import TO_CARRIED
from inchmark.core.reading.result import Reading, VisitReading
from inchmark.plan.adapters.places import fixed_ends, targets_from
from inchmark.plan.adapters.predictions import predictions
from inchmark.plan.adapters.stops import stops_of
from inchmark.plan.adapters.terrain import grid_of
from inchmark.plan.models import Terrain
from inchmark.plan.services import site_of
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.studies.models import Study


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    """What Plan predicted beside what was walked, and walks beside each other."""

    rows: list[BesideRow]
    plan: BesidePlan | None
    walks: list[WalkChange]


def beside(study: Study, reading: Reading) -> Beside:
    """Return predictions beside levels, in the reference condition, heard by the fixed end."""
    rows = list(_rows(study, reading))
    return Beside(
        rows=rows,
        plan=beside_plan((row.distance_m, row.off_db) for row in rows),
        walks=walk_changes(reading.visits),
    )


def _rows(study: Study, reading: Reading) -> list[BesideRow]:
    site, rigs, stops = site_of(study), rigs_of(study), stops_of(study)
    if not rigs or not stops:
        return []
    terrain = Terrain.objects.filter(study=study).first()
    end = fixed_ends(site, [])[0]
    grid = grid_of(terrain) if terrain else None
    cells = predictions(targets_from(stops, end), rigs, site, grid, end)
    predicted = {
        (cell.rig.letter, row.stop.label): cell.stop.level_dbm
        for row in cells
        for cell in row.cells
    }
    return [
        BesideRow(
            rig=one.rig,
            stop=one.stop,
            distance_m=one.distance_m,
            predicted_dbm=predicted[one.rig, one.stop],
            walked=one,
        )
        for one in _comparable(reading.visits, reading.site.condition)
        if (one.rig, one.stop) in predicted
    ]


def _comparable(visits: Sequence[VisitReading], reference: str) -> list[VisitReading]:
    return [
        one
        for one in visits
        if one.level_dbm is not None
        and one.heard
        and one.condition == reference
        and not one.receiver
        and one.direction != TO_CARRIED
    ]
