"""One direction of a budget as a ladder: a bar for each item on a broken ruler of dBm."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from inchmark.core.budget import SENDER, Budget, Item, ItemKey
from inchmark.core.wording import number
from inchmark.pages.plot import Axis, Tick

LEFT, BREAK_FROM, BREAK_TO, RIGHT = 2.0, 52.0, 58.0, 98.0  # per cent of the ladder's width
DB_LEFT_SPAN, DB_RIGHT_SPAN = 50.0, 40.0
ROOM_DB = 6.0
LEAST_WIDTH = 0.15  # so that 0.05 dB still shows
STEP_DB = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """One item laid out: bar from x to x + width [per cent], its value as it is drawn [dB].

    `editable` is false where another ladder of the page lets the user edit the same item.
    """

    item: Item
    x: float
    width: float
    after_x: float
    broken: bool
    changed: bool  # a what-if
    editable: bool

    @property
    def drawn_db(self) -> float:
        """Return the value as a ladder shows it: what it adds."""
        return self.item.adds_db

    @property
    def gain(self) -> bool:
        """Tell whether the bar goes up."""
        return self.drawn_db >= 0


@dataclass(frozen=True, slots=True, kw_only=True)
class LadderDrawing:
    """A budget laid out on its ruler; every second tick is left out where there is little room."""

    rungs: tuple[Rung, ...]
    ticks: tuple[tuple[Tick, bool], ...]
    arriving_x: float
    threshold_x: float
    strips: tuple[tuple[float, float], ...] = ((0.0, BREAK_FROM + 0.5), (BREAK_TO - 0.5, 42.5))
    break_x: float = (BREAK_FROM + BREAK_TO) / 2


class _Ruler:
    """dBm to per cent: two stretches at their own scale with a break between, so that 0.5 dB shows."""

    def __init__(self, weak_dbm: float, strong_dbm: float) -> None:
        low, high = weak_dbm - ROOM_DB, strong_dbm + ROOM_DB
        self.weak = Axis(
            low=low, high=low + DB_LEFT_SPAN, start=LEFT, end=BREAK_FROM, held=True, digits=3
        )
        self.strong = Axis(
            low=high - DB_RIGHT_SPAN, high=high, start=BREAK_TO, end=RIGHT, held=True, digits=3
        )

    def x(self, dbm: float) -> float:
        """Return where a level lies."""
        return (self.weak if dbm <= self.weak.high else self.strong).at(dbm)

    def ticks(self) -> tuple[tuple[Tick, bool], ...]:
        """Return a tick every 10 dB on both stretches, and whether it is a second one."""
        found = []
        for axis in (self.weak, self.strong):
            first = int(axis.low // STEP_DB + 1) * STEP_DB
            for dbm in range(first, int(axis.high) + 1, STEP_DB):
                found.append((Tick(axis.at(dbm), number(dbm, 0)), dbm % (2 * STEP_DB) != 0))
        return tuple(found)


def _strongest(budget: Budget) -> float:
    """Return the highest level on the sender's side [dBm], 0 at least."""
    total, strongest = 0.0, 0.0
    for item in budget.items:
        if item.place != SENDER:
            break
        total += item.adds_db
        strongest = max(strongest, total)
    return strongest


def ladder_drawing(
    budget: Budget,
    threshold_dbm: float,
    *,
    changed: Collection[ItemKey] = (),
    shown_before: Collection[ItemKey] = (),
) -> LadderDrawing:
    """Return a budget laid out.

    Parameters
    ----------
    threshold_dbm
        Level at which half of the frames are lost.
    changed
        Items that are what-ifs.
    shown_before
        Items that another ladder of the page lets the user edit.
    """
    ruler = _Ruler(min(threshold_dbm, budget.arriving_dbm), _strongest(budget))
    rungs, total = [], 0.0
    for item in budget.items:
        before, total = total, total + item.adds_db
        low, high = sorted((ruler.x(before), ruler.x(total)))
        rungs.append(
            Rung(
                item=item,
                x=low,
                width=round(max(high - low, LEAST_WIDTH), 3),
                after_x=ruler.x(total),
                broken=low < BREAK_FROM and high > BREAK_TO,
                changed=item.key in changed,
                editable=item.key not in shown_before,
            )
        )
    return LadderDrawing(
        rungs=tuple(rungs),
        ticks=ruler.ticks(),
        arriving_x=ruler.x(budget.arriving_dbm),
        threshold_x=ruler.x(threshold_dbm),
    )
