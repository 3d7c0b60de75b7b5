"""How long a field day takes: visits at the pace the duty cycle allows, walking, set-up."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from inchmark.core.checks import positive, within
from inchmark.core.planning.design import PlannedVisit


@dataclass(frozen=True, slots=True, kw_only=True)
class Pace:
    """Seconds and speeds: set-up at a stop, change of rig [s], walking [m/s], frames a visit."""

    frames: int
    set_up_s: float = 120.0
    change_s: float = 60.0
    speed_m_s: float = 1.2

    def __post_init__(self) -> None:
        """Refuse a pace that is none."""
        within("frames", self.frames, 1, 1_000_000)
        within("set_up_s", self.set_up_s, 0, 86_400)
        within("change_s", self.change_s, 0, 86_400)
        positive("speed_m_s", self.speed_m_s)


@dataclass(frozen=True, slots=True, kw_only=True)
class Entry:
    """One visit with when it begins and ends [s from the start], and what came before it."""

    visit: PlannedVisit
    walked_m: float
    start_s: float
    end_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Timetable:
    """All entries, and where the time goes [s]."""

    entries: tuple[Entry, ...]
    sending_s: float
    walking_s: float
    setting_up_s: float
    back_s: float  # from the last stop to the fixed end

    @property
    def total_s(self) -> float:
        """Return the whole day [s], the way back included."""
        return (self.entries[-1].end_s if self.entries else 0.0) + self.back_s


def frame_interval_s(airtime_s: float, duty_cycle_percent: float, wanted_s: float | None) -> float:
    """Return the interval between starts of frames [s]: as wanted, never shorter than allowed."""
    positive("airtime_s", airtime_s)
    positive("duty_cycle_percent", duty_cycle_percent)
    return max(airtime_s * 100 / duty_cycle_percent, wanted_s or 0.0, airtime_s)


def timetable(
    visits: Sequence[PlannedVisit],
    *,
    distances_m: Mapping[str, float],
    intervals_s: Mapping[str, float],
    pace: Pace,
) -> Timetable:
    """Return when each visit happens; stops lie on one way out from the fixed end.

    Parameters
    ----------
    distances_m
        By stop.
    intervals_s
        Between starts of frames, by rig.
    """
    now, at, last = 0.0, 0.0, None
    entries, walking, setting = [], 0.0, 0.0
    for visit in visits:
        walked = 0.0
        if visit.stop != last or (entries and entries[-1].visit.pass_number != visit.pass_number):
            walked = abs(distances_m[visit.stop] - at)
            at, last = distances_m[visit.stop], visit.stop
            walking += walked / pace.speed_m_s
            setting += pace.set_up_s
            now += walked / pace.speed_m_s + pace.set_up_s
        else:
            setting += pace.change_s
            now += pace.change_s
        end = now + pace.frames * intervals_s[visit.rig]
        entries.append(Entry(visit=visit, walked_m=walked, start_s=now, end_s=end))
        now = end
    back = at / pace.speed_m_s
    return Timetable(
        entries=tuple(entries),
        sending_s=sum(entry.end_s - entry.start_s for entry in entries),
        walking_s=walking + back,
        setting_up_s=setting,
        back_s=back,
    )
