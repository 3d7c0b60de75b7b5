"""Keeping what is said during a walk: taps, notes and looks come numbered from a page, each once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from typing import Any

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.walk.models import Mark, Walk
from inchmark.walk.services.growing import GapError
from inchmark.walk.services.news import MARK, PLACE, tell
from inchmark.walk.services.receive import RefusedError
from inchmark.walk.services.standing import read_anew, stand

MOST_MARKS = 20_000  # of a walk


@transaction.atomic
def keep_marks(
    walk: Walk, *, start: str, first: int, marks: Sequence[Mapping[str, Any]], by: Any
) -> int:
    """Keep marks that are not here yet; return the number of the last that is.

    Raises
    ------
    GapError
        Marks before these are missing.
    RefusedError
        One of them does not fit, or the walk has too many.
    """
    walk = Walk.objects.select_for_update(no_key=True).get(pk=walk.pk)
    kept = walk.marks.filter(start=start).count()
    if first > kept + 1:
        raise GapError(kept + 1)
    fresh = marks[kept + 1 - first :]
    if walk.marks.count() + len(fresh) > MOST_MARKS:
        raise RefusedError(f"A walk holds {MOST_MARKS:,} marks. Begin a new walk for more.")
    said = [_keep(walk, start, number, one, by) for number, one in enumerate(fresh, kept + 1)]
    if Mark.PLACE in said:
        read_anew(walk)
        tell(walk.pk, PLACE)
    if set(said) - {Mark.PLACE}:
        tell(walk.pk, MARK)
    return kept + len(fresh)


def _keep(walk: Walk, start: str, number: int, one: Mapping[str, Any], by: Any) -> str:
    """Keep one mark; return its kind, a note where it names what the study lacks."""
    stop, rig, text = one.get("stop", ""), one.get("rig", ""), one.get("text", "")
    place = walk.study.stops.filter(label=stop).first() if stop else None
    carried = walk.study.rigs.filter(letter=rig).first() if rig else None
    lost = [f"stop {stop}"] * bool(stop and place is None)
    lost += [f"rig {rig}"] * bool(rig and carried is None)
    if lost:  # the phone had an older list: kept as a note, for it happened
        text = f"{text} Tapped {' and '.join(lost)}, which the study lacks.".strip()
    mark = Mark(
        walk=walk, kind=Mark.NOTE if lost else one["kind"], at=_moment(one["at"]), stop=place,
        rig=carried, condition=one.get("condition", ""), receiver=one.get("receiver", ""),
        text=text[:600], item=one.get("item", ""), skipped=one.get("skipped", False),
        start=start, number=number, by=by,
    )  # fmt: skip
    try:
        mark.full_clean()
    except ValidationError as wrong:
        raise RefusedError(f"Mark {number}: {' '.join(wrong.messages)}") from None
    mark.save()
    if mark.kind == Mark.PLACE:
        stand(walk, mark)
    return mark.kind


def _moment(at: datetime) -> datetime:
    """Return a time that the database takes.

    Raises
    ------
    RefusedError
        It is none a clock could show.
    """
    try:
        moment = at.astimezone(UTC)
    except OverflowError:
        raise RefusedError(f"{at} is no time a clock could show. Send ISO 8601.") from None
    if not 1970 < moment.year < 2200:
        raise RefusedError(f"{at} is no time a clock could show. Set the phone’s clock.")
    return moment
