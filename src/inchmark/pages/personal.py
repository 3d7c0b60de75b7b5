"""How who reads wants figures shown: feet or metres, the clock of which place, dates in which order.

It holds for one request. Stored figures, sentences a reading keeps, files and logs stay in metres
and UTC.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import date, datetime
from functools import wraps
from typing import ParamSpec, TypeVar
from zoneinfo import ZoneInfo

from django.utils import formats

from inchmark.core.wording import distances_in_feet

P, Made = ParamSpec("P"), TypeVar("Made")
DAY_FIRST, MONTH_FIRST, YEAR_FIRST = "j M Y", "M j, Y", "Y-m-d"
DATES = [
    (DAY_FIRST, "14 Nov 2026"),
    (MONTH_FIRST, "Nov 14, 2026"),
    (YEAR_FIRST, "2026-11-14"),
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Personal:
    """A person's way to read figures."""

    feet: bool = False
    zone: str = "UTC"
    dates: str = DAY_FIRST


USUAL = Personal()
_current: ContextVar[Personal] = ContextVar("personal", default=USUAL)


def current() -> Personal:
    """Return how who reads now wants figures."""
    return _current.get()


@contextmanager
def shown_to(personal: Personal) -> Iterator[None]:
    """Show figures as somebody wants them while this lasts."""
    token = _current.set(personal)
    try:
        with distances_in_feet(on=personal.feet):
            yield
    finally:
        _current.reset(token)


def in_usual_figures(do: Callable[P, Made]) -> Callable[P, Made]:
    """Let what is kept or handed on be written in metres, UTC and the usual dates, whoever asks."""

    @wraps(do)
    def as_usual(*args: P.args, **named: P.kwargs) -> Made:
        with shown_to(USUAL):
            return do(*args, **named)

    return as_usual


def day(value: date | datetime | None) -> str:
    """Return a date in the order who reads wants; of a moment, the date on their clock."""
    if value is None:
        return ""
    if isinstance(value, datetime):
        value = value.astimezone(ZoneInfo(current().zone))
    return str(formats.date_format(value, current().dates))


def moment(value: datetime | None) -> str:
    """Return a moment on the clock of who reads, with the name of that clock."""
    if value is None:
        return ""
    here = value.astimezone(ZoneInfo(current().zone))
    return f"{day(here)}, {here:%H:%M} {here.tzname()}"
