"""The field day on the clock: outings with their visits, light, and what slower rigs cost."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from itertools import groupby

from inchmark.core.planning import design, timetable
from inchmark.core.planning.design import DAYS, PEOPLE, PlannedVisit
from inchmark.plan.models import Design, Site, Stop
from inchmark.shelf.adapters.rigs import airtime_s
from inchmark.shelf.adapters.settings import transmit_current_a
from inchmark.shelf.figures.limits import TYPED, Duty, duty_of
from inchmark.shelf.models import Rig

MOST_VISITS = 3_000  # of a plan: a page of them stays within a second or two
UNDATED = date(2000, 1, 1)  # a plan without a date still has clock times


def too_many(planned: Design, rigs: Sequence[Rig], stops: Sequence[Stop]) -> str:
    """Return why no order of work is drawn, empty where one is."""
    visits = len(rigs) * len(stops) * planned.passes * len(planned.all_ways)
    if visits <= MOST_VISITS:
        return ""
    return (
        f"{len(rigs)} rigs at {len(stops):,} stops are {visits:,} visits; an order of work is drawn for "
        f"{MOST_VISITS:,} at most. Take fewer rigs, stops, passes or ways."
    )


def visits_of(planned: Design, rigs: Sequence[Rig], stops: Sequence[Stop]) -> list[PlannedVisit]:
    """Return the visits in the order of work, stops outwards; none where they are too many."""
    if too_many(planned, rigs, stops):
        return []
    return design.order_of_work(
        [rig.letter for rig in rigs],
        [stop.label for stop in stops],
        passes=planned.passes,
        seed=planned.seed,
        shuffled=planned.shuffled,
        arrangement=planned.arrangement,
        ways=planned.all_ways,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class DayEntry:
    """A line of the timetable with its clock times."""

    entry: timetable.Entry
    begins: time
    ends: time
    interval_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Outing:
    """The visits of one day, or of one person; its name is empty where there is one only."""

    name: str
    entries: list[DayEntry]
    table: timetable.Timetable

    @property
    def by_stop(self) -> list[tuple[str, list[DayEntry]]]:
        """Return the visits stop by stop, in the order of work."""
        runs = groupby(
            self.entries, key=lambda one: (one.entry.visit.pass_number, one.entry.visit.stop)
        )
        return [(stop, list(entries)) for (_, stop), entries in runs]


@dataclass(frozen=True, slots=True, kw_only=True)
class Day:
    """The plan on the clock: outings, finish of the longest, light, where the time goes."""

    outings: list[Outing]
    begin: datetime
    finish: datetime
    sunrise: datetime | None
    sunset: datetime | None
    per_visit: list[tuple[Rig, float, float]]  # rig, interval [s], length of a visit [s]
    sending_c: dict[str, float]  # charge of all frames sent, by rig whose module names its current
    duties: dict[str, Duty]  # by rig

    @property
    def longest_s(self) -> float:
        """Return how long the longest outing takes [s]."""
        return max((one.table.total_s for one in self.outings), default=0.0)

    @property
    def sending_s(self) -> float:
        """Return the time spent sending over all outings [s]."""
        return sum(one.table.sending_s for one in self.outings)

    @property
    def walking_s(self) -> float:
        """Return the time spent on the way over all outings [s]."""
        return sum(one.table.walking_s for one in self.outings)

    @property
    def setting_up_s(self) -> float:
        """Return the time spent setting up and changing over all outings [s]."""
        return sum(one.table.setting_up_s for one in self.outings)

    @property
    def after_dark(self) -> bool:
        """Tell whether the day ends after sunset or begins before sunrise."""
        if self.sunset is None or self.sunrise is None:
            return False
        return self.finish > self.sunset or self.begin < self.sunrise


def day_of(design: Design, rigs: Sequence[Rig], stops: Sequence[Stop], site: Site | None) -> Day:
    """Return the field day on the clock."""
    duties = {rig.letter: _duty(design, rig) for rig in rigs}
    intervals = {
        rig.letter: timetable.frame_interval_s(
            airtime_s(rig), duties[rig.letter].percent, design.interval_s
        )
        for rig in rigs
    }
    start = datetime.combine(design.walked_on or UNDATED, design.starts_at)
    outings = list(_outings(design, rigs, stops, intervals, start))
    rise, set_ = _light(design, site)
    longest = max((outing.table.total_s for outing in outings), default=0.0)
    return Day(
        outings=outings,
        begin=start,
        finish=start + timedelta(seconds=longest),
        sunrise=rise,
        sunset=set_,
        per_visit=[
            (rig, intervals[rig.letter], design.frames * intervals[rig.letter]) for rig in rigs
        ],
        sending_c=_sending_c(design, rigs, outings),
        duties=duties,
    )


def _duty(design: Design, rig: Rig) -> Duty:
    """Return the duty cycle the plan keeps: the sub-band's too, unless it says why it need not."""
    if design.exception:
        return Duty(percent=rig.duty_cycle_percent, source=TYPED)
    return duty_of(rig, design.study.region)


NAMES = {DAYS: "Day", PEOPLE: "Person"}


OrderLine = tuple[str, list[tuple[str, list[str]]]]  # outing's name, stops with their rigs


def order_lines(design: Design, visits: Sequence[PlannedVisit]) -> list[OrderLine]:
    """Return the order of work, a line an outing: its name, and stops with their rigs."""
    found = []
    for number, inside in groupby(visits, key=lambda visit: visit.outing):
        runs = groupby(inside, key=lambda visit: (visit.pass_number, visit.stop))
        stops = [(stop, [_told(visit) for visit in each]) for (_, stop), each in runs]
        found.append((_name(design, number), stops))
    return found


def _told(visit: PlannedVisit) -> str:
    return f"{visit.rig} ({visit.way})" if visit.way else visit.rig


def _name(design: Design, number: int) -> str:
    return f"{NAMES[design.arrangement]} {number}" if design.arrangement in NAMES else ""


def _outings(
    design: Design,
    rigs: Sequence[Rig],
    stops: Sequence[Stop],
    intervals: Mapping[str, float],
    start: datetime,
) -> list[Outing]:
    pace = timetable.Pace(
        frames=design.frames,
        set_up_s=design.set_up_s,
        change_s=design.change_s,
        speed_m_s=design.speed_m_s,
    )
    away = {stop.label: stop.distance_m for stop in stops}
    found = []
    for number, visits in groupby(visits_of(design, rigs, stops), key=lambda visit: visit.outing):
        table = timetable.timetable(
            list(visits), distances_m=away, intervals_s=intervals, pace=pace
        )
        entries = [_entry(entry, start, intervals) for entry in table.entries]
        found.append(Outing(name=_name(design, number), entries=entries, table=table))
    return found


def _entry(entry: timetable.Entry, start: datetime, intervals: Mapping[str, float]) -> DayEntry:
    return DayEntry(
        entry=entry,
        begins=(start + timedelta(seconds=entry.start_s)).time(),
        ends=(start + timedelta(seconds=entry.end_s)).time(),
        interval_s=intervals[entry.visit.rig],
    )


def _sending_c(design: Design, rigs: Sequence[Rig], outings: Sequence[Outing]) -> dict[str, float]:
    """Return what sending draws from each rig's battery over all outings [C]."""
    found = {}
    entries = [entry for outing in outings for entry in outing.entries]
    for rig in rigs:
        visits = sum(each.entry.visit.rig == rig.letter for each in entries)
        current = transmit_current_a(rig.module_part, rig.power_dbm) if rig.module_part else None
        if current is not None:
            found[rig.letter] = visits * design.frames * airtime_s(rig) * current
    return found


def _light(design: Design, site: Site | None) -> tuple[datetime | None, datetime | None]:
    """Return sunrise and sunset in the day's local time; None without date or place."""
    if design.walked_on is None or site is None or site.lat is None or site.lon is None:
        return None, None
    from astral import Observer
    from astral.sun import sunrise, sunset

    there, offset = (
        Observer(latitude=site.lat, longitude=site.lon),
        timedelta(hours=design.utc_offset_h),
    )
    found = []
    for of in (sunrise, sunset):
        try:
            at = of(there, date=design.walked_on)
        except ValueError:  # the sun does not rise or set that day
            return None, None
        found.append((at + offset).replace(tzinfo=None))
    return found[0], found[1]
