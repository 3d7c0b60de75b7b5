"""Verbs on the timeline of a walk: who stood where, when; logs with a recipe are read anew by it."""

from __future__ import annotations

import csv
import io
from datetime import UTC, datetime, timedelta, timezone
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.core.recipe.clock import zone_of
from inchmark.formats.timeline_file import COLUMNS, read_timeline
from inchmark.walk.models import Stay, Walk
from inchmark.walk.services.by_recipe import lines_of_log
from inchmark.walk.services.recipes import AT_ONCE_BYTES, follow_timeline, read_now, zone_text

MOST_STAYS = 2_000


def zone_of_walk(walk: Walk) -> timezone:
    """Return the zone of the clocks of a walk: its study's field day."""
    return zone_of(zone_text(walk.study))


def timeline_text(walk: Walk) -> str:
    """Return the timeline of a walk as it is typed: times of day in the study's zone."""
    zone = zone_of_walk(walk)
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
    found = read_timeline(text.encode(), zone=zone_of_walk(walk), day=walk.walked_on)
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


@transaction.atomic
def move_edge(walk: Walk, stay_id: int, which: str, by_s: float) -> Stay:
    """Move an end of a stay by seconds, and with it the end of a stay of the same rig that meets it.

    Raises
    ------
    ValidationError
        There is no such stay, or one would end before it begins.
    """
    stays: dict[int, Stay] = {stay.pk: stay for stay in walk.stays.select_related("stop", "rig")}
    moved = stays.get(stay_id)
    if moved is None or which not in ("from", "to"):
        raise ValidationError("That stay is not there any more. Load the page again.")
    old = moved.from_time if which == "from" else moved.to_time
    new = old + timedelta(seconds=round(by_s))
    _put(moved, which, new)
    other_end = "to" if which == "from" else "from"
    for stay in stays.values():
        own = stay.to_time if other_end == "to" else stay.from_time
        if stay.pk != moved.pk and stay.rig_id == moved.rig_id and own == old:
            _put(stay, other_end, new)
    return moved


def _put(stay: Stay, which: str, moment: datetime) -> None:
    if which == "from":
        stay.from_time = moment
    else:
        stay.to_time = moment
    if stay.to_time <= stay.from_time:
        raise ValidationError(
            f"The stay at stop {stay.stop.label} would end before it begins. Nothing was moved."
        )
    stay.save(update_fields=["from_time", "to_time"])


def read_by_timeline(walk: Walk) -> int:
    """Read the walk's logs anew by its timeline; return how many. Ours name their own stops."""
    files = list(
        walk.files.filter(recipe__isnull=False, state__in=("read", "failed"), let_go_at=None)
    )
    for file in files:
        read_now(file)
    follow_timeline(walk)
    return len(files)


def unplaced_moments(walk: Walk) -> dict[int, list[float]]:
    """Return when frames came that count at no stop yet [s since 1970], by log; of large logs none.

    They are in no table, so their logs are read for them.
    """
    found = {}
    asked = walk.files.read_by_recipe().filter(bad_count__gt=0)
    for file in asked.filter(size_bytes__lte=AT_ONCE_BYTES):
        lines = lines_of_log(file)
        found[file.pk] = [told.time_s for told in lines.told if told.time_s is not None]
    return found
