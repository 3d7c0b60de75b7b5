"""Times as logs write them, to seconds since 1970.

A time without a date takes one and goes over midnight; seconds since the start are anchored to one
known moment and may wrap at 32 bits; a time without a zone is in the zone given.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta, timezone
from enum import StrEnum
from functools import lru_cache

DAY_S = 86_400.0
WRAP = 2.0**32
_DATE = re.compile(r"(\d{1,4})[-/.](\d{1,2})[-/.](\d{1,4})")
_CLOCK = re.compile(r"(\d{1,4}):(\d{2})(?::(\d{2})(?:[.,:](\d{1,9}))?)?")
_ZONE = re.compile(r"(Z|UTC|[+-]\d{2}:?\d{2})\s*$")
_PACKED = re.compile(r"(\d{4})(\d{2})(\d{2})[T_-]?(\d{2})(\d{2})(\d{2})(?:\.(\d{1,9}))?Z?")


class Kind(StrEnum):
    """How a time is written."""

    FULL = "date and time"
    CLOCK = "time of day"
    EPOCH_S = "seconds since 1970"
    EPOCH_MS = "milliseconds since 1970"
    UP_MS = "milliseconds since the start"
    UP_S = "seconds since the start"
    UP_US = "microseconds since the start"


STEPS = {Kind.UP_MS: 1e-3, Kind.UP_S: 1.0, Kind.UP_US: 1e-6}


def kind_of(text: str) -> Kind | None:
    """Return how a single time is written; None for what is none."""
    if text.startswith("+"):
        return _since_start(text[1:])
    if _DATE.match(text) and _CLOCK.search(text):
        return Kind.FULL
    if _PACKED.fullmatch(text):
        return Kind.FULL
    if _CLOCK.fullmatch(text.strip()):
        return Kind.CLOCK
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        return None
    if 9e8 <= value < 7e9:
        return Kind.EPOCH_S
    if 9e11 <= value < 7e12:
        return Kind.EPOCH_MS
    return Kind.UP_MS if value >= 0 else None


def _since_start(text: str) -> Kind | None:
    for end, kind in (("ms", Kind.UP_MS), ("us", Kind.UP_US), ("s", Kind.UP_S)):
        if text.endswith(end):
            return kind
    return Kind.UP_S if "." in text else Kind.UP_MS


def zone_of(text: str) -> timezone:
    """Return a zone like +01:00 or Z; raise ValueError with a sentence."""
    if text.upper() in ("Z", "UTC"):
        return UTC
    found = re.fullmatch(r"([+-])(\d{1,2}):?(\d{2})?", text)
    if not found or int(found[2]) > 14:
        raise ValueError(f"The zone “{text}” must be like +01:00, -05:30 or Z.")
    minutes = int(found[2]) * 60 + int(found[3] or 0)
    return timezone(timedelta(minutes=minutes if found[1] == "+" else -minutes))


def date_in(text: str, *, month_first: bool = False) -> date | None:
    """Return the date a text begins with; year first, or day first unless it must be the month."""
    found = _DATE.match(text)
    if not found:
        return None
    a, b, c = (int(x) for x in found.groups())
    if a > 31:
        year, month, day = a, b, c
    else:
        day, month, year = (b, a, c) if (month_first or b > 12) and a <= 12 else (a, b, c)
    try:
        return date(year + 2000 if year < 100 else year, month, day)
    except ValueError:
        return None


@dataclass(slots=True)
class Clock:
    """Reads the times of one source in the order of its lines.

    `day` is the date of its first time of day; `shift_s` is added to every time. `anchor_s` is the
    moment at which a counter of milliseconds stood at zero [s since 1970].
    """

    kind: Kind
    zone: timezone = UTC
    day: date | None = None
    shift_s: float = 0.0
    anchor_s: float | None = None
    month_first: bool = False
    _last: float | None = None
    _days: float = 0.0
    fell_back: int = 0

    def read(self, text: str, day: str = "") -> float | None:
        """Return a time [s since 1970]; None where nothing anchors it.

        Raises
        ------
        ValueError
            The text is no time of this kind.
        """
        if self.kind is Kind.FULL or day:
            return self._full(f"{day} {text}" if day else text) + self.shift_s
        if self.kind is Kind.CLOCK:
            seconds = clock_seconds(text)
            seconds += self._over_midnight(seconds)
            if self.day is None:
                return None
            return _midnight(self.day, self.zone) + seconds + self.shift_s
        value = float(text.lstrip("+").rstrip("umsµ").replace(",", "."))
        if self.kind in (Kind.EPOCH_S, Kind.EPOCH_MS):
            return value * (1e-3 if self.kind is Kind.EPOCH_MS else 1.0) + self.shift_s
        since = self._since_start(value)
        return None if self.anchor_s is None else self.anchor_s + since + self.shift_s

    def _full(self, text: str) -> float:
        packed = _PACKED.fullmatch(text.strip())
        if packed:
            y, mo, d, h, mi, s = (int(x) for x in packed.groups()[:6])
            part = float(f"0.{packed[7] or 0}")
            return datetime(y, mo, d, h, mi, s, tzinfo=UTC).timestamp() + part
        day = date_in(text, month_first=self.month_first)
        if day is None:
            raise ValueError(f"“{text[:40]}” is no date and time")
        rest = _DATE.sub("", text, count=1)
        zone = _ZONE.search(rest)
        at = zone_of(zone[1]) if zone else self.zone
        return _midnight(day, at) + clock_seconds(rest)

    def _over_midnight(self, seconds: float) -> float:
        if self._last is not None and seconds < self._last - DAY_S / 2:
            self._days += DAY_S
        elif self._last is not None and seconds < self._last - 1:
            self.fell_back += 1
        self._last = seconds
        return self._days

    def _since_start(self, value: float) -> float:
        step = STEPS[self.kind]
        if self._last is not None and value < self._last:
            wrapped = self._last > 0.9 * WRAP and value < 0.1 * WRAP
            self._days += WRAP if wrapped else 0.0
            self.fell_back += 0 if wrapped else 1
        self._last = value
        return (value + self._days) * step


def clock_seconds(text: str) -> float:
    """Return the seconds since midnight of a time of day; raise ValueError with a sentence."""
    found = _CLOCK.search(text)
    if not found or int(found[2]) > 59 or int(found[3] or 0) > 60:
        raise ValueError(f"“{text[:40]}” is no time of day")
    part = float(f"0.{found[4]}") if found[4] else 0.0
    return int(found[1]) * 3600 + int(found[2]) * 60 + int(found[3] or 0) + part


@lru_cache(maxsize=64)
def _midnight(day: date, zone: timezone) -> float:
    return datetime(day.year, day.month, day.day, tzinfo=zone).timestamp()
