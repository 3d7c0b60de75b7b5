"""Lines to what they tell, by a recipe: frames, positions, what stands from here on, damage."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date, timezone
from typing import Any, NamedTuple

from inchmark.core.recipe import nmea
from inchmark.core.recipe.clock import Clock, Kind
from inchmark.core.recipe.names import Act, Meaning, act_of
from inchmark.core.recipe.parts import JSON, POSITION, Part, Pieces
from inchmark.core.recipe.pieces import expanded, taken_apart
from inchmark.core.recipe.recipe import FRAME_MAKERS, STANDING, Recipe
from inchmark.core.recipe.shapes import Shapes
from inchmark.core.recipe.text import MOST_CHARACTERS, plain
from inchmark.core.recipe.values import value_by

POSITION_AGE_S = 30.0
WORDS = {Meaning.SEQ: "counter", Meaning.RSSI: "RSSI", Meaning.SNR: "S/N"}  # of what frames need


class Damaged(NamedTuple):
    """A line that should be a frame and is none: its number, text and why."""

    number: int
    text: str
    reason: str


class Aside(NamedTuple):
    """A line that is no frame: boot text, debug words, a header."""

    number: int
    text: str


class Fix(NamedTuple):
    """Where a source was: its line, time [s since 1970], latitude and longitude [degrees], how good.

    HDOP, satellites, and of GGA sentences the quality and the age of corrections [s].
    """

    number: int
    time_s: float | None
    lat: float
    lon: float
    hdop: float | None = None
    satellites: int | None = None
    quality: int | None = None
    age_s: float | None = None


class Standing(NamedTuple):
    """A line that says what holds for those after it, like “stop 3”."""

    number: int
    values: Mapping[Meaning, Any]


@dataclass(slots=True)
class Told:
    """What a line tells of a frame: its number, what happened, when, and the figures it bears."""

    number: int
    act: Act
    time_s: float | None
    values: dict[Meaning, Any] = field(default_factory=dict)

    def get(self, meaning: Meaning, default: Any = None) -> Any:
        """Return a value, or the default where the line bears none."""
        return self.values.get(meaning, default)


Event = Told | Damaged | Aside | Fix | Standing


@dataclass(frozen=True, slots=True, kw_only=True)
class Clocking:
    """What is known of a source's clock: zone, date of its first line, seconds to add, an anchor."""

    zone: timezone
    day: date | None = None
    shift_s: float = 0.0
    anchor_s: float | None = None


class Reader:
    """Reads the lines of one source in order; each line is looked at once."""

    def __init__(self, recipe: Recipe, clocking: Clocking) -> None:
        self.recipe = recipe
        self.heads = recipe.table()
        self.uses = {use.name: use for use in recipe.uses}
        self.values = {use.name: value_by(use) for use in recipe.uses if use.kind is None}
        self.day = clocking.day
        self.dated = recipe.use_of(Meaning.DATE) is not None
        self.shapes = Shapes(self._taken, wanted=set(self.uses) | {recipe.begins})
        self.stamp = self._clock(recipe.stamp, clocking)
        self.clocks = {u.name: self._clock(u.kind, clocking) for u in recipe.uses if u.kind}
        self.needs = set(recipe.needs)
        # positional parts bear the first word of the line: another length of it is a cut line
        self.prefixes = {use.name.partition("/")[0] for use in recipe.uses if "/" in use.name}
        self.standing: dict[Meaning, Any] = {}
        self.fix: Fix | None = None
        self.open: Told | None = None  # a frame told over several lines

    def _clock(self, kind: Kind | None, known: Clocking) -> Clock | None:
        if kind is None:
            return None
        return Clock(
            kind,
            zone=known.zone,
            day=known.day,
            shift_s=known.shift_s,
            anchor_s=known.anchor_s,
            month_first=self.recipe.month_first,
        )

    @property
    def fell_back(self) -> int:
        """Return how often a clock of the source fell back."""
        clocks = [*self.clocks.values(), self.stamp]
        return sum(clock.fell_back for clock in clocks if clock is not None)

    def _taken(self, text: str) -> list[Pieces]:
        return expanded(taken_apart(text, self.heads, names_first=self.recipe.names_first))

    def read(self, number: int, raw: str) -> Iterator[Event]:
        """Yield what a line tells; a frame over several lines comes with the line that ends it."""
        text = plain(raw)
        if len(raw) > MOST_CHARACTERS:
            yield Damaged(number, text[:200], f"The line has {len(raw)} characters.")
            return
        if self._rules_or_heads(text) and "\x00" not in raw:
            yield Aside(number, text)
            return
        for pieces in self.shapes.taken(text):
            yield from self._event(number, raw, text, pieces)

    def _rules_or_heads(self, text: str) -> bool:
        """Tell whether a line is a rule across a table, or its heads again."""
        if text and not any(c.isalnum() for c in text):
            return "\ufffd" not in text
        bare = text.lstrip("# |").lower()
        if self.heads is None or not bare.startswith(self.recipe.heads[0]):
            return False
        cells = self.heads.cells(bare)
        return cells is not None and all(part.name == part.text for part in cells.parts)

    def end(self) -> Iterator[Event]:
        """Yield the frame that the last lines told of, where one is still open."""
        if self.open is not None:
            told, self.open = self.open, None
            yield from self._complete(told)

    def _event(self, number: int, raw: str, text: str, pieces: Pieces) -> Iterator[Event]:
        try:
            time_s = self._time(pieces)
            if pieces.form == POSITION:
                yield self._position(number, pieces.parts[0].text, time_s, text)
                return
            values = self._values(pieces.parts)
        except ValueError as wrong:
            yield Damaged(number, text[:400], f"{wrong}.")
            return
        act = self._act(pieces, values)
        if self.recipe.begins:
            yield from self._gathered(number, text, act, time_s, values, pieces)
        elif any(meaning in values for meaning in FRAME_MAKERS) or act in (Act.SENT, Act.REPLY):
            yield from self._frame(number, text, Told(number, act, time_s, values))
        else:
            yield self._no_frame(number, raw, text, time_s, values, pieces)

    def _act(self, pieces: Pieces, values: dict[Meaning, Any]) -> Act:
        act = act_of(pieces.words)
        if values.get(Meaning.CRC) is False:
            return Act.DAMAGED
        if values.get(Meaning.HEARD) is False or values.get(Meaning.ACK) is False:
            return Act.LOST
        if act is Act.SENT and (Meaning.RSSI in values or Meaning.SNR in values):
            return Act.HEARD  # who sends does not measure
        return Act.REPLY if values.get(Meaning.ACK) is True else act

    def _frame(self, number: int, text: str, told: Told) -> Iterator[Event]:
        if told.act is Act.HEARD and (missing := self.needs - told.values.keys()):
            names = ", ".join(sorted(WORDS[meaning] for meaning in missing))
            yield Damaged(number, text[:400], f"The line has no {names}; it may have been cut off.")
            return
        if told.act is Act.DAMAGED:
            yield Damaged(number, text[:400], "The frame arrived damaged (its check failed).")
            return
        yield self._stood(told)

    def _stood(self, told: Told) -> Told:
        """Give a frame what stands: what earlier lines said, and where the source was."""
        told.values = self.standing | told.values
        fix = self.fix
        if fix is not None and Meaning.LAT not in told.values and self._fresh(fix, told):
            told.values |= {Meaning.LAT: fix.lat, Meaning.LON: fix.lon}
        return told

    @staticmethod
    def _fresh(fix: Fix, told: Told) -> bool:
        if fix.time_s is None or told.time_s is None:
            return told.number - fix.number <= 50
        return abs(told.time_s - fix.time_s) <= POSITION_AGE_S

    def _no_frame(
        self,
        number: int,
        raw: str,
        text: str,
        time_s: float | None,
        values: dict[Meaning, Any],
        pieces: Pieces,
    ) -> Event:
        stands = {meaning: value for meaning, value in values.items() if meaning in STANDING}
        if stands:
            self.standing |= stands
            return Standing(number, stands)
        if Meaning.LAT in values and Meaning.LON in values:
            lat, lon = values[Meaning.LAT], values[Meaning.LON]
            hdop, satellites = values.get(Meaning.HDOP), values.get(Meaning.SATELLITES)
            self.fix = Fix(number, time_s, lat, lon, hdop, satellites)
            return self.fix
        if reason := self._why_damaged(raw, text, pieces):
            return Damaged(number, text[:400], reason)
        return Aside(number, text[:400])

    def _why_damaged(self, raw: str, text: str, pieces: Pieces) -> str:
        """Return why a line that gave no frame should have; empty for plain talk."""
        if "\x00" in raw or "\ufffd" in raw:
            return (
                "The line holds bytes that are no text, as from a loose lead or a wrong baud rate."
            )
        if self.recipe.heads and text.count(self.recipe.delimiter) and self.recipe.delimiter != " ":
            cells = text.count(self.recipe.delimiter) + 1
            return f"The line has {cells} fields, the header has {len(self.recipe.heads)}; it may have been cut off."
        if text.startswith("{") and pieces.form != JSON:
            return "The line is no whole JSON object; it may have been cut off."
        lead = pieces.parts[0].name.partition("/")[0] if pieces.parts else ""
        cut = "/" in (pieces.parts[0].name if pieces.parts else "") or text.split(",")[0]
        if cut and (lead or text.split(",")[0].split(" ")[0]) in self.prefixes - {""}:
            return "The line begins like a frame and has not its parts; it may have been cut off."
        return ""

    def _gathered(
        self,
        number: int,
        text: str,
        act: Act,
        time_s: float | None,
        values: dict[Meaning, Any],
        pieces: Pieces,
    ) -> Iterator[Event]:
        """Gather a frame that is told over several lines."""
        begins = any(part.name == self.recipe.begins for part in pieces.parts)
        if begins:
            yield from self.end()
            self.open = Told(number, act, time_s, values)
        elif self.open is not None and values and not set(values) & set(self.open.values):
            self.open.values |= values
        elif values:
            yield from self.end()
            yield self._no_frame(number, text, text, time_s, values, pieces)
        else:
            yield Aside(number, text[:400])

    def _complete(self, told: Told) -> Iterator[Event]:
        yield from self._frame(told.number, "", told)

    def _time(self, pieces: Pieces) -> float | None:
        day = ""
        if self.dated:
            day = next((p.text for p in pieces.parts if self._means(p, Meaning.DATE)), "")
        found: float | None = None
        for part in pieces.parts:
            clock = self.clocks.get(part.name)
            if clock is not None and not (self.dated and self._means(part, Meaning.DATE)):
                found = clock.read(part.text, day if self._means(part, Meaning.TIME) else "")
            if found is not None:
                return found
        if self.stamp is not None and pieces.stamp:
            return self.stamp.read(pieces.stamp, day if self.stamp.kind is Kind.CLOCK else "")
        return None

    def _means(self, part: Part, meaning: Meaning) -> bool:
        use = self.uses.get(part.name)
        return use is not None and use.meaning is meaning

    def _values(self, parts: tuple[Part, ...]) -> dict[Meaning, Any]:
        values: dict[Meaning, Any] = {}
        for part in parts:
            known = self.values.get(part.name)
            if known is not None and known[0] not in values:
                value = known[1](part)
                if value is not None:
                    values[known[0]] = value
        return values

    def _position(self, number: int, text: str, time_s: float | None, line: str) -> Event:
        try:
            found = nmea.position(text, self.day)
        except ValueError as wrong:
            return Damaged(number, line[:400], str(wrong))
        if found is None:
            return Aside(number, line[:400])
        self.fix = Fix(
            number, time_s or found.time_s, found.lat, found.lon,
            found.hdop, found.satellites, found.quality, found.age_s,
        )  # fmt: skip
        return self.fix
