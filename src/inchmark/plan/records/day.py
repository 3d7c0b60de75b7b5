"""The field day: design, order, timetable, limits, kit, as the pages show them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from math import log10

from inchmark.core.planning import cautions, design, timetable
from inchmark.core.planning.design import Comparison, PlannedVisit
from inchmark.core.planning.power import PlannedWalk, Question
from inchmark.core.reception.proportion import frames_for_half_width
from inchmark.core.simulation import SimulatedRig, SimulatedSite
from inchmark.core.wording import number
from inchmark.plan.models import Design, Site, Stop
from inchmark.plan.records.paths import StopCells
from inchmark.shelf.models import Rig
from inchmark.shelf.records.ends import carried_end, sensitivity_of
from inchmark.shelf.records.limits import LegalCheck, legal_checks
from inchmark.shelf.records.parts import chain_of
from inchmark.shelf.records.rigs import airtime_s, facts_of
from inchmark.shelf.records.settings import transmit_current_a

USUAL_SPREAD_DB = 2.5  # of levels from frame to frame at one place, common practice
LOSS_HALF_WIDTH, LEVEL_HALF_WIDTH_DB = 0.1, 1.0
LEAST_SPAN = 0.001  # decades of distance
UNDATED = date(2000, 1, 1)  # a plan without a date still has clock times


@dataclass(frozen=True, slots=True, kw_only=True)
class Thumb:
    """What a number of frames shows, and how many other wishes would take."""

    frames: int
    zero_lost_under: float
    for_loss: int
    for_level: int


def thumb_of(one: Design) -> Thumb:
    """Return the rules of thumb for a design's frames."""
    return Thumb(
        frames=one.frames,
        zero_lost_under=design.zero_lost_shows(one.frames),
        for_loss=frames_for_half_width(0.1, LOSS_HALF_WIDTH),
        for_level=design.frames_for_level(LEVEL_HALF_WIDTH_DB, USUAL_SPREAD_DB),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class DesignView:
    """What the plan can compare cleanly, what it confounds, what to add."""

    clean: list[Comparison]
    mixed: list[Comparison]
    remedies: list[str]
    drifts: list[str]


def design_view(rigs: Sequence[Rig], visits: Sequence[PlannedVisit]) -> DesignView:
    """Return what a plan with these rigs can compare."""
    varied = {rig.letter: dict(facts_of(rig).varied) for rig in rigs}
    pairs = design.comparisons(varied)
    return DesignView(
        clean=[one for one in pairs if one.clean],
        mixed=[one for one in pairs if len(one.things) > 1],
        remedies=design.remedies(varied),
        drifts=design.drift_confounded(visits),
    )


def visits_of(one: Design, rigs: Sequence[Rig], stops: Sequence[Stop]) -> list[PlannedVisit]:
    """Return the visits in the order of work, stops outwards."""
    return design.order_of_work(
        [rig.letter for rig in rigs],
        [stop.label for stop in stops],
        passes=one.passes,
        seed=one.seed,
        shuffled=one.shuffled,
    )


def question_of(one: Design, *, needed_m: float | None, loss: float) -> Question:
    """Return the design's question; ValueError says what it lacks."""
    if one.rig is None:
        raise ValueError("choose the rig the question is about")
    return Question(
        kind=one.kind,
        rig=one.rig.letter,
        other=one.other.letter if one.other else "",
        wanted_db=one.wanted_db,
        needed_m=needed_m,
        loss=loss,
    )


def settles(one: Design, *, needed: str, loss: float) -> str:
    """Return what result would settle the question."""
    rig = f"rig {one.rig.letter}" if one.rig else "the rig"
    if one.kind == "compare":
        against = f"rig {one.other.letter}" if one.other else "the other"
        return (
            f"It is settled when {rig} and {against} are shown to differ by at least "
            f"{number(one.wanted_db)} dB, with 95 %."
        )
    if one.kind == "reach":
        return (
            f"It is settled when the loss of {rig} at the stop nearest {needed} is shown to be "
            f"under {100 * loss:g} %, or over it, with 95 %."
        )
    return (
        f"It is settled when two neighbouring stops, no more than 1.6 times apart, lie on both "
        f"sides of where {rig} loses half of its frames."
    )


def planned_walk(one: Design, cells: Sequence[StopCells], site: Site | None) -> PlannedWalk:
    """Return the plan as the simulator walks it: the predicted path law, each rig's threshold."""
    near, far = cells[0], cells[-1]
    rigs = {}
    exponent = _exponent(near, far)
    for cell in near.cells:
        level = cell.stop.level_dbm + 10 * exponent * log10(near.stop.distance_m)
        rigs[cell.rig.letter] = SimulatedRig(
            level_at_1m_dbm=level, threshold_dbm=sensitivity_of(cell.rig).dbm
        )
    shadowing = site.shadowing_db if site else 6.0
    return PlannedWalk(
        stops=[(one.stop.label, one.stop.distance_m) for one in cells],
        frames=one.frames,
        passes=one.passes,
        site=SimulatedSite(exponent=exponent, sigma_s_db=shadowing),
        rigs=rigs,
    )


def _exponent(near: StopCells, far: StopCells) -> float:
    """Return the slope between the nearest and the farthest stop, as predicted."""
    span = log10(far.stop.distance_m) - log10(near.stop.distance_m)
    if span < LEAST_SPAN:
        return 3.0
    drop = near.cells[0].stop.level_dbm - far.cells[0].stop.level_dbm
    return max(drop / span / 10, 1.5)


@dataclass(frozen=True, slots=True, kw_only=True)
class DayEntry:
    """A line of the timetable with its clock times."""

    entry: timetable.Entry
    begins: time
    ends: time
    interval_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Day:
    """The timetable on the clock: finish, light, where the time goes, what slower rigs cost."""

    entries: list[DayEntry]
    table: timetable.Timetable
    finish: datetime | None
    sunrise: datetime | None
    sunset: datetime | None
    per_visit: list[tuple[Rig, float, float]]  # rig, interval [s], length of a visit [s]
    sending_c: dict[str, float]  # charge of all frames sent, by rig whose module names its current

    @property
    def after_dark(self) -> bool:
        """Tell whether the day ends after sunset or begins before sunrise."""
        if self.finish is None or self.sunset is None:
            return False
        return self.finish > self.sunset


def day_of(one: Design, rigs: Sequence[Rig], stops: Sequence[Stop], site: Site | None) -> Day:
    """Return the field day on the clock."""
    intervals = {
        rig.letter: timetable.frame_interval_s(
            airtime_s(rig), rig.duty_cycle_percent, one.interval_s
        )
        for rig in rigs
    }
    pace = timetable.Pace(
        frames=one.frames, set_up_s=one.set_up_s, change_s=one.change_s, speed_m_s=one.speed_m_s
    )
    table = timetable.timetable(
        visits_of(one, rigs, stops),
        distances_m={stop.label: stop.distance_m for stop in stops},
        intervals_s=intervals,
        pace=pace,
    )
    start = datetime.combine(one.walked_on or UNDATED, one.starts_at)
    rise, set_ = _light(one, site)
    return Day(
        entries=[
            DayEntry(
                entry=entry,
                begins=(start + timedelta(seconds=entry.start_s)).time(),
                ends=(start + timedelta(seconds=entry.end_s)).time(),
                interval_s=intervals[entry.visit.rig],
            )
            for entry in table.entries
        ],
        table=table,
        finish=start + timedelta(seconds=table.total_s),
        sunrise=rise,
        sunset=set_,
        per_visit=[
            (rig, intervals[rig.letter], one.frames * intervals[rig.letter]) for rig in rigs
        ],
        sending_c=_sending_c(one, rigs, table),
    )


def _sending_c(one: Design, rigs: Sequence[Rig], table: timetable.Timetable) -> dict[str, float]:
    """Return what sending draws from each rig's battery over the day [C]."""
    found = {}
    for rig in rigs:
        visits = sum(entry.visit.rig == rig.letter for entry in table.entries)
        current = transmit_current_a(rig.module_part, rig.power_dbm) if rig.module_part else None
        if current is not None:
            found[rig.letter] = visits * one.frames * airtime_s(rig) * current
    return found


def _light(one: Design, site: Site | None) -> tuple[datetime | None, datetime | None]:
    """Return sunrise and sunset in the day's local time; None without date or place."""
    if one.walked_on is None or site is None or site.lat is None or site.lon is None:
        return None, None
    from astral import Observer
    from astral.sun import sunrise, sunset

    there, offset = (
        Observer(latitude=site.lat, longitude=site.lon),
        timedelta(hours=one.utc_offset_h),
    )
    found = []
    for of in (sunrise, sunset):
        try:
            at = of(there, date=one.walked_on)
        except ValueError:  # the sun does not rise or set that day
            return None, None
        found.append((at + offset).replace(tzinfo=None))
    return found[0], found[1]


@dataclass(frozen=True, slots=True, kw_only=True)
class RigLegal:
    """A rig's ends against the limits at the pace of the plan."""

    rig: Rig
    checks: list[LegalCheck]

    @property
    def fits(self) -> bool:
        """Tell whether both ends fit some row."""
        return all(check.fits for check in self.checks)


def legal_of(day: Day, region: str) -> list[RigLegal]:
    """Return each rig at the interval the plan sends at."""
    found = []
    for rig, interval, _ in day.per_visit:
        rig.period_s = interval  # in memory only: the plan's pace, not the deployment's
        found.append(RigLegal(rig=rig, checks=legal_checks(rig, region)))
    return found


def condition_choices() -> list[tuple[str, str]]:
    """Return what may apply on a day, in words."""
    return [(one.key, one.when) for one in cautions.CAUTIONS]


def cautions_of(one: Design, rigs: Sequence[Rig]) -> list[cautions.Caution]:
    """Return the cautions of this plan."""
    strongest = max(
        (rig.power_dbm + carried_end(rig).antenna_gain_dbi for rig in rigs), default=-100.0
    )
    return cautions.that_apply(one.conditions, strongest_eirp_dbm=strongest)


def kit_of(rigs: Sequence[Rig], day: Day) -> list[str]:
    """Return what to bring, from the rigs and the plan."""
    found: dict[str, None] = {}
    for rig in rigs:
        found[f"{rig.module} set to {rig.setting}, and a second one to swap"] = None
        found[f"{rig.antenna} (carried end)"] = None
        if rig.fixed_antenna:
            found[f"{rig.fixed_antenna} (fixed end)"] = None
        for feed in (rig.feed_part, rig.fixed_feed_part):
            if feed:
                found[f"{feed.name}, and a spare"] = None
        for joint in chain_of(rig):
            found[f"{joint.adapter or 'adapter'} for rig {rig.letter}"] = None
        if rig.battery:
            stays = rig.battery.keep_on_a is not None
            found[rig.battery.name + (", or one that stays on" if stays else "")] = None
    hours = day.table.total_s / 3600
    found[f"power for the receiver's log over {number(hours)} h, with a bank that stays on"] = None
    found["attenuators for the stops close by"] = None
    found["tape or rangefinder, and a phone with the stops"] = None
    found["this run sheet, pencil, spare leads"] = None
    return list(found)
