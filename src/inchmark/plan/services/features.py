"""Verbs on the features of a site's map: keep those of a file, take them off, stand them up.

Walls of the file are kept as walls.
"""

from __future__ import annotations

import zlib

from django.db import transaction

from inchmark.formats.cover import cover_on
from inchmark.formats.features import read_features
from inchmark.plan.adapters.terrain import COVER_HEIGHTS_M, grid_of
from inchmark.plan.models import SiteFeatures, Terrain
from inchmark.plan.services import walls
from inchmark.studies.models import Study
from inchmark.studies.services import touch


@transaction.atomic
def keep_features(study: Study, data: bytes, name: str) -> SiteFeatures:
    """Keep the features of a GeoJSON file; earlier ones are replaced.

    Raises
    ------
    UnreadableFileError
        The file holds none.
    """
    read = read_features(data)
    drawn = [one for one in read if one.wall is None]
    found = [[one.kind, one.name, one.rings, one.cover] for one in drawn]
    walls.keep_walls_of_file(study, [one for one in read if one.wall is not None])
    kept, _ = SiteFeatures.objects.update_or_create(
        study=study, defaults={"name": name[-200:], "features": found}
    )
    stand_on_terrain(study)
    return kept


@transaction.atomic
def remove_features(study: Study) -> None:
    """Take the features off."""
    SiteFeatures.objects.filter(study=study).delete()
    walls.keep_walls_of_file(study, [])
    stand_on_terrain(study)


@transaction.atomic
def stand_on_terrain(study: Study) -> None:
    """Put the covered areas of the features onto the terrain, if there are both."""
    terrain = Terrain.objects.filter(study=study).first()
    if terrain is None:
        return
    features = SiteFeatures.objects.filter(study=study).first()
    areas = [
        (rings, COVER_HEIGHTS_M[cover])
        for _, _, rings, cover in (features.features if features else [])
        if cover
    ]
    cover = cover_on(grid_of(terrain), areas)
    before, terrain.cover = (
        terrain.cover,
        zlib.compress(cover.tobytes()) if cover is not None else None,
    )
    if before != terrain.cover:
        terrain.save(update_fields=["cover"])
        touch(study)
