"""Gathering what the places of a rig are worked out from: its draws, its parts, the terrain."""

from __future__ import annotations

import numpy as np

from inchmark.core.budget import EndName
from inchmark.core.checks import Floats
from inchmark.core.reading.measured import TO_CARRIED
from inchmark.decide.figures.ground import Ground
from inchmark.decide.figures.mends import Basis, basis_of
from inchmark.decide.figures.tried import draws_of
from inchmark.decide.figures.variants import Variant, variants
from inchmark.plan.adapters.own_paths import cover_costs_db
from inchmark.plan.adapters.places import Target, fixed_ends, target_of, targets_from
from inchmark.plan.adapters.terrain import grid_for
from inchmark.plan.adapters.walls import walls_of
from inchmark.plan.models import Site, SitePoint
from inchmark.plan.services.site import site_of
from inchmark.read.adapters import KeptReading
from inchmark.read.services import current_reading
from inchmark.shelf.adapters.rigs import rigs_of
from inchmark.shelf.models import Rig
from inchmark.studies.memory import per_revision
from inchmark.studies.models import Study


def rig_asked(study: Study, letter: str) -> Rig | None:
    """Return the rig asked for, else that which serves most places, else the first."""
    rigs = rigs_of(study)
    named = next((one for one in rigs if one.letter == letter), None)
    if named or not rigs:
        return named
    kept = current_reading(study)
    counts = (
        {one.rig: one.count.estimate for one in kept.reading.served if one.count} if kept else {}
    )
    return max(rigs, key=lambda one: counts.get(one.letter, -1.0))


def basis_for(study: Study, rig: Rig) -> Basis | None:
    """Return what a rig's places are worked out from; None where the walk says nothing of them."""
    kept = current_reading(study)
    if kept is None:
        return None
    return per_revision(study, "basis", lambda: _basis(study, rig, kept), rig.pk, kept.row.pk)


def _basis(study: Study, rig: Rig, kept: KeptReading) -> Basis | None:
    served = next((one for one in kept.reading.served if one.rig == rig.letter), None)
    draws = draws_of(served.drawn) if served else None
    if served is None or draws is None:
        return None
    site = site_of(study)
    end = fixed_ends(site, [])[0]
    nodes = targets_from(list(study.points.filter(kind=SitePoint.NODE)), end)
    if [one.label for one in nodes] != [one.place for one in served.places]:
        return None  # places were added or moved since: the reading that counts them is on its way
    grid = per_revision(study, "grid", lambda: grid_for(study))
    walls = walls_of(site) if kept.reading.site.wall_factor else None
    ground = Ground(
        site=site,
        grid=grid,
        end=end,
        places=nodes,
        rig=rig,
        walls=walls,
        cover_db=_covers(study, kept, nodes, rig, site),
    )
    return basis_of(rig, study.loss_share, draws, ground)


def _covers(
    study: Study, kept: KeptReading, nodes: list[Target], rig: Rig, site: Site | None
) -> Floats:
    """Return what covers each place beyond what covered the stops walked to, on average [dB]."""
    walked = {one.stop for one in kept.reading.visits if one.rig == rig.letter}
    stops = [target_of(one, one.distance_m) for one in study.stops.filter(label__in=walked)]
    own, seen = (
        np.array([one.get(rig.letter, 0.0) for one in cover_costs_db(ones, [rig], site)])
        for ones in (nodes, stops)
    )
    found: Floats = own - (seen.mean() if len(seen) else 0.0)
    return found


def sender_of(study: Study, rig: Rig) -> EndName:
    """Return which end sends in the direction a rig is judged by."""
    kept = current_reading(study)
    read = kept.reading.of_rig(rig.letter) if kept else None
    return EndName.FIXED if read and read.direction == TO_CARRIED else EndName.CARRIED


def changes_of(study: Study, rig: Rig) -> list[Variant]:
    """Return what of the shelf, of its settings and of its power would gain a rig level."""
    antennas = list(study.antenna_parts.filter(archived=False))
    settings = list(study.settings.filter(archived=False).select_related("module"))
    return variants(rig, sender_of(study, rig), antennas, settings, study.region)
