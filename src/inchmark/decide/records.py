"""Budgets at the needed distance as a ladder of dB, and the ranges under each rule."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from inchmark.core.budget import Budget, Item, link_budget, radiated_power_dbm
from inchmark.core.propagation.log_distance import LogDistanceLaw, range_factor
from inchmark.core.reading.answer import verdict
from inchmark.core.wording import decibels, distance, level, number
from inchmark.plan.records import MIDDLE_EXPONENT
from inchmark.read.models import StudyReading
from inchmark.shelf.models import Rig
from inchmark.shelf.records.rigs import carried_end, figures_of, fixed_end, sensitivity_of
from inchmark.studies.models import Study
from inchmark.studies.records import SideNote

LEFT, BREAK_FROM, BREAK_TO, RIGHT = 2.0, 52.0, 58.0, 98.0  # per cent of the ladder's width
DB_LEFT_SPAN, DB_RIGHT_SPAN = 50.0, 40.0
REFERENCE_DISTANCE_M = 500.0  # where budgets are drawn when no distance is needed


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """One item of the ladder laid out: bar from x to x + width [per cent]."""

    name: str
    place: str
    db: float
    source: str
    x: float
    width: float
    after_x: float
    broken: bool
    gain: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RulerTick:
    """A line of the dBm ruler."""

    x: float
    label: str
    every_second: bool  # left out where there is little room


@dataclass(frozen=True, slots=True, kw_only=True)
class Ladder:
    """One direction of one rig's budget."""

    direction: str
    rungs: list[Rung]
    ticks: list[RulerTick]
    arriving_dbm: float
    arriving_x: float
    threshold_dbm: float
    threshold_x: float
    threshold_source: str
    in_hand_db: float
    in_hand_limits: dict[str, float | None] | None
    kept_db: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class RigBudget:
    """A rig at the needed distance: both directions, its ranges, and whether it holds."""

    rig: Rig
    distance_m: float
    ladders: list[Ladder]
    ranges: dict[str, Any] | None
    on_stops: dict[str, Any] | None
    verdict: str
    delivery: dict[str, float | None] | None
    measured: bool
    extrapolated: bool


class _Ruler:
    """dBm to per cent: two stretches at their own scale with a break between.

    So that 0.5 dB shows.
    """

    def __init__(self, weak_dbm: float, strong_dbm: float) -> None:
        self.left_end = weak_dbm - 6
        self.right_end = strong_dbm + 6

    def x(self, dbm: float) -> float:
        """Return where a level lies."""
        if dbm <= self.left_end + DB_LEFT_SPAN:
            share = max((dbm - self.left_end) / DB_LEFT_SPAN, 0.0)
            return round(LEFT + (BREAK_FROM - LEFT) * share, 3)
        share = max(1 - (self.right_end - dbm) / DB_RIGHT_SPAN, 0.0)
        return round(BREAK_TO + (RIGHT - BREAK_TO) * min(share, 1.0), 3)

    def ticks(self) -> list[RulerTick]:
        """Return a tick every 10 dB on both stretches."""
        first = int(self.left_end // 10 + 1) * 10
        left = range(first, int(self.left_end + DB_LEFT_SPAN) + 1, 10)
        start = self.right_end - DB_RIGHT_SPAN
        right = range(int(start // 10 + 1) * 10, int(self.right_end) + 1, 10)
        return [
            RulerTick(x=self.x(dbm), label=number(dbm, 0), every_second=dbm % 20 != 0)
            for dbm in [*left, *right]
        ]


def needed_distance_m(study: Study) -> float:
    """Return the distance budgets are drawn at [m]."""
    return study.needed_m or REFERENCE_DISTANCE_M


def budgets(study: Study, reading: StudyReading | None) -> list[RigBudget]:
    """Return every rig's budget at the needed distance."""
    return [_rig_budget(study, rig, reading) for rig in study.rigs.all()]


def _rig_budget(study: Study, rig: Rig, reading: StudyReading | None) -> RigBudget:
    data = reading.data if reading else {}
    one = data.get("rigs", {}).get(rig.letter)
    metres = needed_distance_m(study)
    path = _path(rig, one, data, metres)
    kept = data.get("site", {}).get("kept_for_places_db", {}).get("estimate")
    measured = one["needed"]["in_hand_db"] if path.measured and one else None
    ladders = [
        _ladder(
            "carried end to fixed end",
            link_budget(
                carried_end(rig), fixed_end(rig), path_loss_db=path.db, path_source=path.source
            ),
            rig,
            one,
            path,
            kept,
            measured,
        ),
        _ladder(
            "fixed end to carried end",
            link_budget(
                fixed_end(rig), carried_end(rig), path_loss_db=path.db, path_source=path.source
            ),
            rig,
            one,
            path,
            kept,
            None,
        ),
    ]
    reach = one["range_m"]["loss_rule"] if one else None
    return RigBudget(
        rig=rig,
        distance_m=metres,
        ladders=ladders,
        ranges=one["range_m"] if one else None,
        on_stops=one["on_stops_m"] if one else None,
        verdict=verdict(reach, metres) if reach else "unknown",
        delivery=one["needed"]["delivery"] if one and path.measured else None,
        measured=path.measured,
        extrapolated=bool(one and one["extrapolated"]),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Path:
    db: float
    source: str
    measured: bool


def _path(rig: Rig, one: dict[str, Any] | None, data: dict[str, Any], metres: float) -> _Path:
    """Return the path loss [dB]: what the measured level leaves of the budget, or a law.

    A measured level is on the module's own RSSI scale, so the loss found here carries that scale's
    offset; margins do not, since the threshold carries it too.
    """
    at = (one or {}).get("needed", {}).get("level_dbm", {}).get("estimate")
    exponent = data.get("site", {}).get("exponent", {}).get("estimate")
    if at is not None and exponent is not None:
        lossless = link_budget(
            carried_end(rig), fixed_end(rig), path_loss_db=0.0, path_source=""
        ).arriving_dbm
        source = f"{distance(metres)}, slope {number(10 * exponent)} dB per ×10, walked"
        return _Path(db=lossless - at, source=source, measured=True)
    law = LogDistanceLaw.from_free_space(frequency_hz=rig.frequency_hz, exponent=MIDDLE_EXPONENT)
    source = f"{distance(metres)}, exponent {MIDDLE_EXPONENT:g}, common practice"
    return _Path(db=float(law.loss_db(metres)), source=source, measured=False)


def _ladder(
    direction: str,
    budget: Budget,
    rig: Rig,
    one: dict[str, Any] | None,
    path: _Path,
    kept: float | None,
    measured: dict[str, float | None] | None,
) -> Ladder:
    threshold, source = _threshold(rig, one)
    ruler = _Ruler(min(threshold, budget.arriving_dbm), _strongest(budget))
    arriving = budget.arriving_dbm
    return Ladder(
        direction=direction,
        rungs=_rungs(budget.items, ruler),
        ticks=ruler.ticks(),
        arriving_dbm=arriving,
        arriving_x=ruler.x(arriving),
        threshold_dbm=threshold,
        threshold_x=ruler.x(threshold),
        threshold_source=source,
        in_hand_db=arriving - threshold,
        in_hand_limits=measured if measured and measured["low"] is not None else None,
        kept_db=kept if path.measured else None,
    )


def _threshold(rig: Rig, one: dict[str, Any] | None) -> tuple[float, str]:
    measured = one["threshold_dbm"]["estimate"] if one else None
    if measured is None:
        sensitivity = sensitivity_of(rig)
        return sensitivity.dbm, sensitivity.source
    words = (
        "half of the frames lost, walked"
        if one and one["edge_reached"]
        else "half of the frames lost, datasheet"
    )
    return measured, words


def _strongest(budget: Budget) -> float:
    total, strongest = 0.0, -1e9
    for item in budget.items:
        if item.place != "sender":
            break
        total += item.db
        strongest = max(strongest, total)
    return max(strongest, 0.0)


def _rungs(items: tuple[Item, ...], ruler: _Ruler) -> list[Rung]:
    rungs, total = [], 0.0
    for item in items:
        before, total = total, total + item.db
        low, high = sorted((ruler.x(before), ruler.x(total)))
        rungs.append(
            Rung(
                name=item.name,
                place=item.place,
                db=item.db,
                source=item.source,
                x=low,
                width=round(max(high - low, 0.15), 3),
                after_x=ruler.x(total),
                broken=low < BREAK_FROM and high > BREAK_TO,
                gain=item.db >= 0,
            )
        )
    return rungs


def headline(study: Study, found: list[RigBudget], reading: StudyReading | None) -> tuple[str, str]:
    """Return the sentence of the page and the words under it."""
    if not found:
        return "No rig on the shelf yet.", ""
    best = max(found, key=lambda one: one.ladders[0].in_hand_db)
    ladder, metres = best.ladders[0], distance(best.distance_m)
    sentence = (
        f"Rig {best.rig.letter} at {metres} keeps {decibels(ladder.in_hand_db, sign=False)} in hand"
    )
    if ladder.kept_db is not None:
        sentence += (
            f"; {round(study.places_share * 100):g} of 100 places need {number(ladder.kept_db)}"
        )
    other = best.ladders[1].in_hand_db - ladder.in_hand_db
    words = "Carried end to fixed end. " + (
        "The other direction has as much."
        if abs(other) < 0.05
        else f"The other direction has {decibels(abs(other), sign=False)} "
        f"{'more' if other > 0 else 'less'}."
    )
    if not best.measured:
        words += " Predicted: nothing has been walked that says what the path loses."
    if not study.needed_m:
        words += f" No needed distance is set, so {metres} is drawn."
    return sentence, words


def notes(study: Study, found: list[RigBudget], reading: StudyReading | None) -> list[SideNote]:
    """Return the notes of the page: what dB are worth here, and what is radiated."""
    rows = []
    exponent = (reading.data if reading else {}).get("site", {}).get("exponent", {}).get("estimate")
    if exponent:
        doubling = 10 * exponent * 0.30103
        rows.append(
            SideNote(
                code="doubling",
                subject="",
                kind="fact",
                title=f"Twice the range takes {decibels(doubling, sign=False)} here",
                text=f"6 dB doubles range in free space (common practice). On this site 6 dB "
                f"makes it "
                f"×{number(float(range_factor(6, exponent)), 2)}, 3 dB "
                f"×{number(float(range_factor(3, exponent)), 2)}.",
            )
        )
    for one in found:
        figures = figures_of(one.rig)
        rows.append(
            SideNote(
                code="radiated",
                subject=one.rig.letter,
                kind="fact",
                title=f"{one.rig.letter} radiates "
                f"{level(radiated_power_dbm(carried_end(one.rig)))} e.i.r.p.",
                text=f"{number(figures.airtime_s * 1e3)} ms on air; "
                f"{one.rig.duty_cycle_percent:g} % duty cycle allows "
                f"{figures.messages_per_hour} messages an hour. Look the limits up for your "
                f"place; licensed people decide.",
            )
        )
    return rows
