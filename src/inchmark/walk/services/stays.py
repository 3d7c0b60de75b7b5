"""Verbs on the timeline of a walk: who stood where, when; logs with a recipe are read anew by it."""

from __future__ import annotations

import csv
import io
from datetime import UTC, datetime
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.core.recipe.clock import zone_of
from inchmark.formats.timeline_file import COLUMNS, read_timeline
from inchmark.walk.models import Stay, Walk
from inchmark.walk.services.recipes import follow_timeline, read_now, zone_text

MOST_STAYS = 2_000


def timeline_text(walk: Walk) -> str:
    """Return the timeline of a walk as it is typed: times of day in the study's zone."""
    zone = zone_of(zone_text(walk.study))
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for stay in walk.stays.select_related("stop", "rig"):
        moments = [_clock(moment, zone) for moment in (stay.from_time, stay.to_time)]
        rig, sent = stay.rig.letter if stay.rig else "", "" if stay.sent is None else stay.sent
        writer.writerow([*moments, stay.stop.label, rig, stay.condition, stay.receiver, sent])
    return out.getvalue()


def _clock(moment: datetime, zone: Any) -> str:
    return f"{moment.astimezone(zone):%Y-%m-%d %H:%M:%S}"


@transaction.atomic
def keep_timeline(walk: Walk, text: str, by: Any) -> list[Stay]:
    """Put a typed timeline in the place of the one before.

    Raises
    ------
    UnreadableFileError
        A line cannot be read.
    ValidationError
        A rig or stop is not of this study.
    """
    if not text.strip():
        walk.stays.all().delete()
        return []
    found = read_timeline(text.encode(), zone=zone_of(zone_text(walk.study)), day=walk.walked_on)
    if len(found) > MOST_STAYS:
        raise ValidationError(f"A timeline has at most {MOST_STAYS:,} stays.")
    rigs = {rig.letter: rig for rig in walk.study.rigs.all()}
    stops = {stop.label: stop for stop in walk.study.stops.all()}
    wrong = [f"There is no stop {s.stop} here." for s in found if s.stop not in stops]
    wrong += [f"There is no rig {s.rig} here." for s in found if s.rig and s.rig not in rigs]
    if wrong:
        raise ValidationError([*dict.fromkeys(wrong)][:5])
    walk.stays.all().delete()
    return Stay.objects.bulk_create(
        Stay(
            walk=walk,
            from_time=datetime.fromtimestamp(stay.from_s, UTC),
            to_time=datetime.fromtimestamp(stay.to_s, UTC),
            stop=stops[stay.stop],
            rig=rigs.get(stay.rig),
            condition=stay.condition[:60],
            receiver=stay.receiver[:60],
            sent=stay.sent,
            by=by,
        )
        for stay in found
    )


def read_by_timeline(walk: Walk) -> int:
    """Read the walk's logs anew by its timeline; return how many. Ours name their own stops."""
    files = list(
        walk.files.filter(recipe__isnull=False, state__in=("read", "failed"), let_go_at=None)
    )
    for file in files:
        read_now(file)
    follow_timeline(walk)
    return len(files)
