"""One direction of a budget as a ladder: a bar for each item on a broken ruler of dBm."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from inchmark.core.budget import Budget, Item
from inchmark.core.wording import number

LEFT, BREAK_FROM, BREAK_TO, RIGHT = 2.0, 52.0, 58.0, 98.0  # per cent of the ladder's width
DB_LEFT_SPAN, DB_RIGHT_SPAN = 50.0, 40.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """One item of the ladder laid out: bar from x to x + width [per cent]."""

    key: str  # by end, not by direction: carried_feed, fixed_antenna, path
    name: str
    place: str
    db: float
    source: str
    x: float
    width: float
    after_x: float
    broken: bool
    gain: bool
    changed: bool  # a what-if
    editable: bool


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
    kept_source: str


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


def _strongest(budget: Budget) -> float:
    total, strongest = 0.0, -1e9
    for item in budget.items:
        if item.place != "sender":
            break
        total += item.db
        strongest = max(strongest, total)
    return max(strongest, 0.0)


def ladder_of(
    budget: Budget,
    *,
    sender: str,
    threshold: tuple[float, str],
    kept: tuple[float | None, str],
    measured: dict[str, float | None] | None,
    changed: Sequence[str],
    taken: set[str],
) -> Ladder:
    """Return a budget laid out.

    Parameters
    ----------
    sender
        "carried" or "fixed": the end that sends in this direction.
    threshold, kept
        Level at which half of the frames are lost [dBm], and what is kept for bad places [dB],
        each with its source.
    measured
        Limits of what is in hand, if walked.
    changed
        Keys of items that are what-ifs.
    taken
        Keys that another ladder of the page lets the user edit; those edited here are added.
    """
    level, source = threshold
    arriving = budget.arriving_dbm
    ruler = _Ruler(min(level, arriving), _strongest(budget))
    rungs = _rungs(budget.items, ruler, sender, changed, taken)
    return Ladder(
        direction=DIRECTIONS[sender],
        rungs=rungs,
        ticks=ruler.ticks(),
        arriving_dbm=arriving,
        arriving_x=ruler.x(arriving),
        threshold_dbm=level,
        threshold_x=ruler.x(level),
        threshold_source=source,
        in_hand_db=arriving - level,
        in_hand_limits=measured if measured and measured["low"] is not None else None,
        kept_db=kept[0],
        kept_source=kept[1],
    )


DIRECTIONS = {
    "carried": "carried end to fixed end",
    "fixed": "fixed end to carried end",
}


def end_key(item: Item, sender: str) -> str:
    """Return an item's key by end: the sender's power is carried_power or fixed_power."""
    if item.place == "path":
        return item.key
    receiver = "fixed" if sender == "carried" else "carried"
    end = sender if item.place == "sender" else receiver
    return f"{end}_{item.key.removeprefix(item.place + '_')}"


def _rungs(
    items: Sequence[Item], ruler: _Ruler, sender: str, changed: Sequence[str], taken: set[str]
) -> list[Rung]:
    rungs, total = [], 0.0
    for item in items:
        before, total = total, total + item.db
        low, high = sorted((ruler.x(before), ruler.x(total)))
        key = end_key(item, sender)
        rungs.append(
            Rung(
                key=key,
                name=item.name,
                place=item.place,
                db=item.db,
                source=item.source,
                x=low,
                width=round(max(high - low, 0.15), 3),
                after_x=ruler.x(total),
                broken=low < BREAK_FROM and high > BREAK_TO,
                gain=item.db >= 0,
                changed=key in changed,
                editable=key not in taken,
            )
        )
        taken.add(key)
    return rungs
