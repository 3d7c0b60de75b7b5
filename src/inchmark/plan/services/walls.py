"""Verbs on walls: keep one, take one off, keep those of a file."""

from __future__ import annotations

from collections.abc import Sequence

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.core.propagation.walls import MOST_SEGMENTS
from inchmark.formats.features import Feature
from inchmark.plan.models import SiteWall
from inchmark.studies.models import Removed, Study
from inchmark.studies.services import touch
from inchmark.studies.services.undo import take_away

BATCH = 500  # rows a statement


@transaction.atomic
def save_wall(study: Study, wall: SiteWall) -> SiteWall:
    """Keep a wall.

    Raises
    ------
    ValidationError
        It breaks a rule, or the study would have too many.
    """
    wall.study = study
    wall.full_clean()
    others = SiteWall.objects.filter(study=study).exclude(pk=wall.pk)
    _need_room([*others.values_list("points", flat=True), wall.points])
    wall.save()
    touch(study)
    return wall


@transaction.atomic
def remove_wall(wall: SiteWall) -> Removed:
    """Take a wall off."""
    removed = take_away(wall, f"The wall “{wall}”", wall.study)
    touch(wall.study)
    return removed


@transaction.atomic
def keep_walls_of_file(study: Study, found: Sequence[Feature]) -> int:
    """Keep the walls of a file in place of those of an earlier one; return how many pieces there are.

    Raises
    ------
    ValidationError
        The study would have too many, or one breaks a rule.
    """
    gone, _ = SiteWall.objects.filter(study=study, from_file=True).delete()
    fresh = [
        SiteWall(
            study=study,
            name=one.name,
            kind=one.wall.kind,
            thickness_m=one.wall.thickness_m,
            loss_db=one.wall.loss_db,
            points=[list(point) for point in ring],
            from_file=True,
        )
        for one in found
        if one.wall is not None
        for ring in one.rings
    ]
    drawn = SiteWall.objects.filter(study=study).values_list("points", flat=True)
    _need_room([*drawn, *(one.points for one in fresh)])
    for wall in fresh:
        wall.clean_fields(exclude=["study"])
    SiteWall.objects.bulk_create(fresh, batch_size=BATCH)
    if gone or fresh:
        touch(study)
    return len(fresh)


def _need_room(lines: Sequence[Sequence[object]]) -> None:
    if sum(len(line) - 1 for line in lines) > MOST_SEGMENTS:
        raise ValidationError(
            f"The walls of a study have {MOST_SEGMENTS} straight pieces at most. Leave out those that matter least."
        )
