"""The columns of options: what each is called, how it is shown, and the filters over them."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from inchmark.core.wording import number, percent
from inchmark.decide.figures.options import WALKED, Option
from inchmark.pages.listing import Head

Get = Callable[[Option], float | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """A column of figures; `more` tells whether more is better, `low` and `high` are its limits."""

    key: str
    name: str
    unit: str
    get: Get
    show: Callable[[Option], str]
    more: bool = True
    limits: Callable[[Option], tuple[float, float]] | None = None

    @property
    def title(self) -> str:
        """Return name and unit."""
        return f"{self.name}, {self.unit}" if self.unit else self.name


def _served(one: Option) -> str:
    return f"{one.served.estimate:.0f} ({one.served.low:.0f}–{one.served.high:.0f})"


def _figure(get: Get, digits: int) -> Callable[[Option], str]:
    def show(one: Option) -> str:
        value = get(one)
        return "–" if value is None else number(value, digits)

    return show


def _seconds(value: float | None) -> str:
    if value is None:
        return "never"
    return number(value, 2 if value < 10 else 0)


COLUMNS = (
    Column(
        key="served", name="places served", unit="",
        get=lambda one: one.expected, show=_served,
        limits=lambda one: (one.served.low, one.served.high),
    ),
    Column(
        key="in_hand", name="in hand at the weakest", unit="dB",
        get=lambda one: one.in_hand_db, show=lambda one: number(one.in_hand_db, 1, sign=True),
    ),
    Column(
        key="share", name="frames delivered", unit="%",
        get=lambda one: 100 * one.share, show=lambda one: percent(one.share).removesuffix(" %"),
    ),
    Column(
        key="life", name="battery", unit="years",
        get=lambda one: one.life_years, show=_figure(lambda one: one.life_years, 1),
    ),
    Column(
        key="air", name="a message on air", unit="ms", more=False,
        get=lambda one: 1e3 * one.airtime_s, show=_figure(lambda one: 1e3 * one.airtime_s, 0),
    ),
    Column(
        key="hour", name="messages allowed", unit="an hour",
        get=lambda one: one.per_hour, show=_figure(lambda one: one.per_hour, 0),
    ),
    Column(
        key="latency", name="95 % heard within", unit="s", more=False,
        get=lambda one: one.latency_s, show=lambda one: _seconds(one.latency_s),
    ),
    Column(
        key="node", name="cost of a node", unit="", more=False,
        get=lambda one: one.cost_node, show=_figure(lambda one: one.cost_node, 2),
    ),
    Column(
        key="fixed", name="cost of the fixed end", unit="", more=False,
        get=lambda one: one.cost_fixed, show=_figure(lambda one: one.cost_fixed, 2),
    ),
)  # fmt: skip
BY_KEY = {one.key: one for one in COLUMNS}
HEADS = tuple(Head(one.key, one.name, one.unit, number=True) for one in COLUMNS)


@dataclass(frozen=True, slots=True, kw_only=True)
class Filters:
    """What options are shown: at least or at most of a column, allowed or walked ones only."""

    bounds: Mapping[str, float]
    allowed_only: bool = False
    walked_only: bool = False

    def keep(self, options: Sequence[Option]) -> list[Option]:
        """Return the options that pass; one whose figure is not known passes no bound on it."""
        return [one for one in options if self._passes(one)]

    def _passes(self, one: Option) -> bool:
        if self.allowed_only and not one.allowed:
            return False
        if self.walked_only and one.basis != WALKED:
            return False
        return all(_within(BY_KEY[key], one, bound) for key, bound in self.bounds.items())


def _within(column: Column, one: Option, bound: float) -> bool:
    value = column.get(one)
    if value is None:
        return False
    return value >= bound if column.more else value <= bound


def ordered(options: Sequence[Option], sort: str) -> list[Option]:
    """Return options by a column, the best first; as they come where none is asked for."""
    column = BY_KEY.get(sort.removeprefix("-"))
    if column is None:
        return list(options)

    def worth(one: Option) -> float:
        value = column.get(one)
        if value is None:
            return float("inf")
        return -value if column.more else value

    return sorted(options, key=worth)
