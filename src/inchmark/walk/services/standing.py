"""The timeline as it is tapped: each tap ends the stay before it and begins its own, in any order.

A phone that was away sends its taps late. A tap is put where its time says: it ends the stay it falls
into, and lasts until the next tap known, or on and on until somebody says otherwise.
"""

from __future__ import annotations

from datetime import datetime, timedelta

from django.db.models import Min, Q

from inchmark.walk.models import Mark, Stay, Walk
from inchmark.walk.services.receive import queue_import

GOES_ON = timedelta(hours=12)
ONE_THING = timedelta(seconds=2)


def stand(walk: Walk, mark: Mark) -> Stay | None:
    """Put a mark of a place into the timeline; return the stay, None for being on the way."""
    same = _same_ears(mark.receiver)
    stays, marks = walk.stays.filter(same), walk.marks.filter(same, kind=Mark.PLACE)
    ends = [
        stays.filter(from_time__gt=mark.at).aggregate(at=Min("from_time"))["at"],
        marks.filter(at__gt=mark.at).aggregate(at=Min("at"))["at"],
    ]
    end = min((at for at in ends if at), default=None)
    start = mark.at
    for stay in stays.filter(from_time__lte=mark.at, to_time__gt=mark.at):
        start = min(start, _cut(stay, mark.at))
    if mark.stop is None:
        return None
    return Stay.objects.create(
        walk=walk, from_time=start, to_time=end or mark.at + GOES_ON, goes_on=end is None,
        stop=mark.stop, rig=mark.rig, condition=mark.condition, receiver=mark.receiver, by=mark.by,
    )  # fmt: skip


def _same_ears(receiver: str) -> Q:
    """Return what is of one receiver: who names none speaks of all."""
    return Q(receiver="") | Q(receiver=receiver) if receiver else Q()


def _cut(stay: Stay, at: datetime) -> datetime:
    """End a stay at a time; return when the next begins.

    One that began just before never was: stop and carry are two taps of one thing said.
    """
    if at - stay.from_time < ONE_THING:
        stay.delete()
        return stay.from_time
    stay.to_time, stay.goes_on = at, False
    stay.save(update_fields=["to_time", "goes_on"])
    return at


def read_anew(walk: Walk) -> None:
    """Have the logs of a walk that are read by a recipe placed by the timeline as it is now."""
    for file in walk.files.filter(recipe__isnull=False, state__in=("read", "failed", "waiting")):
        if not file.let_go_at:
            queue_import(file)


def standing_now(walk: Walk, now: datetime) -> Stay | None:
    """Return the stay that is now, the one begun last where several are."""
    stays = walk.stays.filter(from_time__lte=now, to_time__gt=now).select_related("stop", "rig")
    found: Stay | None = stays.order_by("from_time", "pk").last()
    return found
