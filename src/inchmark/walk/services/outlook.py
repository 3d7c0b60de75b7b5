"""What comes next on a walk that is being walked: the plan's next visit, the clock, the light."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from inchmark.core.geodesy import Course, Place, geodesic
from inchmark.plan.figures.clock import Day, DayEntry, day_of
from inchmark.plan.models import Design, Stop
from inchmark.plan.services import site_of
from inchmark.shelf.models import Rig
from inchmark.walk.models import Mark, Walk
from inchmark.walk.services.stays import zone_of_walk


@dataclass(frozen=True, slots=True, kw_only=True)
class Next:
    """The next visit of the plan: where, which rig, how far and which way, when it was planned.

    `course` is from where the carried end is known to be: distance [m] and bearing [degrees].
    """

    stop: Stop
    rig: Rig | None
    way: str
    done: int
    of: int
    course: Course | None
    from_words: str
    planned: datetime | None
    late_min: float | None
    light_left: timedelta | None
    left_order: bool  # visits before those made were passed over


def next_visit(walk: Walk, now: datetime, here: tuple[float, float] | None = None) -> Next | None:
    """Return the next visit of the plan; None without a plan, or with all of it done.

    Parameters
    ----------
    here
        Latitude and longitude of the phone [degrees], where it says so.
    """
    study = walk.study
    design = Design.objects.filter(study=study).first()
    rigs, stops = list(study.rigs.with_parts()), list(study.stops.all())
    if design is None or not rigs or not stops:
        return None
    day = day_of(design, rigs, stops, site_of(study))
    entries = [entry for outing in day.outings for entry in outing.entries]
    done = _done(walk, design.ways)
    last = max((i for i, one in enumerate(entries) if _key(one) in done), default=-1)
    open_ones = [i for i, one in enumerate(entries) if _key(one) not in done]
    if not open_ones:
        return None
    ahead = [i for i in open_ones if i > last]
    found = entries[ahead[0] if ahead else open_ones[0]]
    by_label, by_letter = {s.label: s for s in stops}, {r.letter: r for r in rigs}
    stop = by_label[found.entry.visit.stop]
    course, words = _course(walk, now, stop, here)
    planned, light = _times(walk, day, found, now)
    return Next(
        stop=stop,
        rig=by_letter.get(found.entry.visit.rig),
        way=found.entry.visit.way,
        done=len(entries) - len(open_ones),
        of=len(entries),
        course=course,
        from_words=words,
        planned=planned,
        late_min=None if planned is None else (now - planned).total_seconds() / 60,
        light_left=light,
        left_order=any(i < last for i in open_ones),
    )


def _key(entry: DayEntry) -> tuple[str, str, str]:
    return entry.entry.visit.stop, entry.entry.visit.rig, entry.entry.visit.way


def _done(walk: Walk, ways: Sequence[str]) -> set[tuple[str, str, str]]:
    """Return stop, rig and way of what was visited: tapped or with frames; a tap without rig is of all.

    A way that is not planned, like one's own word for the usual one, counts as the usual one.
    """
    letters = list(walk.study.rigs.values_list("letter", flat=True))
    columns = ("stop__label", "rig__letter", "condition")
    told = [*walk.visits.values_list(*columns), *walk.stays.values_list(*columns)]
    return {
        (stop, one, way if way in ways else "")
        for stop, rig, way in told
        for one in ([rig] if rig else letters)
    }


def _course(
    walk: Walk, now: datetime, to: Stop, here: tuple[float, float] | None
) -> tuple[Course | None, str]:
    """Return the way to a stop from the phone, else from the stop the carried end stands at."""
    if to.lat is None or to.lon is None:
        return None, ""
    there = Place(lat_deg=to.lat, lon_deg=to.lon)
    if here is not None:
        return geodesic(Place(lat_deg=here[0], lon_deg=here[1]), there), "from this phone"
    stay = walk.stays.filter(from_time__lte=now).select_related("stop").order_by("from_time").last()
    if stay is None or stay.stop.lat is None or stay.stop.lon is None or stay.stop_id == to.pk:
        return None, ""
    return geodesic(
        Place(lat_deg=stay.stop.lat, lon_deg=stay.stop.lon), there
    ), f"from stop {stay.stop.label}"


def _times(
    walk: Walk, day: Day, entry: DayEntry, now: datetime
) -> tuple[datetime | None, timedelta | None]:
    """Return when the visit was planned and how long the light lasts; None on another day."""
    zone = zone_of_walk(walk)
    if now.astimezone(zone).date() != day.begin.date():
        return None, None
    planned = datetime.combine(day.begin.date(), entry.begins, tzinfo=zone)
    if day.sunset is None:
        return planned, None
    return planned, day.sunset.replace(tzinfo=zone) - now.astimezone(zone)


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """Something to look at before the first frame: done, skipped with a reason, or open."""

    item: str
    words: str
    evidence: str  # what the program knows of it by itself
    mark: Mark | None

    @property
    def settled(self) -> bool:
        """Tell whether it needs no more looking at."""
        return bool(self.evidence) or self.mark is not None


def looks(walk: Walk) -> Sequence[Look]:
    """Return what is looked at before the first frame, with what is known of each."""
    said = {mark.item: mark for mark in walk.marks.filter(kind=Mark.READY)}
    evidence = {
        Mark.READ_BACK: _read_backs(walk),
        Mark.UNITS: _units(walk),
        Mark.CAUTIONS: _cautions(walk),
        Mark.CLOSE_RANGE: _close_range(walk),
    }
    return [
        Look(item=item, words=words, evidence=evidence[item], mark=said.get(item))
        for item, words in Mark.ITEMS
    ]


def _read_backs(walk: Walk) -> str:
    sources = sorted(set(walk.read_backs.values_list("source", flat=True)))
    return f"{', '.join(sources)} answered" if len(sources) > 1 else ""


def _units(walk: Walk) -> str:
    named = walk.units.count()
    if not named or walk.fixed_unit_id is None or named < walk.study.rigs.count():
        return ""
    return "all named on the walk’s page"


def _cautions(walk: Walk) -> str:
    design = Design.objects.filter(study=walk.study).first()
    if design is None:
        return ""
    names = sorted(set(design.acknowledgements.values_list("name", flat=True)))
    return f"read by {', '.join(names)}" if names else ""


def _close_range(walk: Walk) -> str:
    checked = walk.study.close_ranges.filter(checked_on=walk.walked_on)
    letters = sorted(set(checked.values_list("rig__letter", flat=True)))
    return f"checked that day: {', '.join(letters)}" if letters else ""
