"""Verbs on terrain: keep a grid, take it off, keep a typed profile of one path."""

from __future__ import annotations

import zlib

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.formats.terrain import read_terrain
from inchmark.plan.adapters.terrain import COVER_HEIGHTS_M
from inchmark.plan.drawings.maps import contours_of
from inchmark.plan.models import Stop, Terrain
from inchmark.plan.services.features import stand_on_terrain
from inchmark.studies.models import Study
from inchmark.studies.services import touch


@transaction.atomic
def keep_terrain(study: Study, data: bytes, name: str) -> Terrain:
    """Keep the heights of a terrain file; an earlier one is replaced.

    Raises
    ------
    UnreadableFileError
        The file is no terrain.
    """
    grid = read_terrain(data, name)
    rows, columns = grid.heights_m.shape
    Terrain.objects.filter(study=study).delete()
    terrain = Terrain.objects.create(
        study=study,
        name=name[-200:],
        north_deg=grid.north_deg,
        west_deg=grid.west_deg,
        lat_step_deg=grid.lat_step_deg,
        lon_step_deg=grid.lon_step_deg,
        rows=rows,
        columns=columns,
        heights=zlib.compress(grid.heights_m.astype("<f4").tobytes()),
        contours=contours_of(grid),
    )
    stand_on_terrain(study)
    touch(study)
    return terrain


@transaction.atomic
def remove_terrain(study: Study) -> None:
    """Take the terrain off."""
    Terrain.objects.filter(study=study).delete()
    touch(study)


@transaction.atomic
def keep_profile(stop: Stop, rows: list[list[object]]) -> Stop:
    """Keep a typed profile of the path to a stop: distance [m], height [m], cover.

    Raises
    ------
    ValidationError
        Distances do not ascend from 0, a cover is unknown, or there are fewer than three rows.
    """
    if rows and len(rows) < 3:
        raise ValidationError("A profile has three rows or more: both ends and what is between.")
    distances = [float(row[0]) for row in rows]  # type: ignore[arg-type]
    if distances != sorted(set(distances)) or (distances and distances[0] != 0):
        raise ValidationError("Distances of a profile ascend, and begin with 0 at the fixed end.")
    for _, _, cover in rows:
        if cover not in COVER_HEIGHTS_M:
            known = ", ".join(COVER_HEIGHTS_M)
            raise ValidationError(f"“{cover}” is no cover; {known} are.")
    stop.profile = rows
    stop.full_clean()
    stop.save(update_fields=["profile"])
    touch(stop.study)
    return stop
