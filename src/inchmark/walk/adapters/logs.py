"""Kept logs as the core reads them: what was said of them, and the timeline of their walk."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from pydantic import BaseModel, ConfigDict, Field

from inchmark.core.gathering.log import LogReading
from inchmark.core.gathering.source import Constants
from inchmark.core.gathering.timeline import Stay as StayOf
from inchmark.core.gathering.timeline import Timeline
from inchmark.core.gathering.visits import Sending
from inchmark.core.recipe.clock import clock_seconds, zone_of
from inchmark.core.recipe.names import Meaning
from inchmark.core.recipe.reader import Clocking
from inchmark.core.recipe.recipe import Recipe
from inchmark.formats.recipe_file import recipe_from_json
from inchmark.walk.models import FrameFile, Walk


class Names(BaseModel):
    """What names of a log mean in the study: rigs by letter, stops by label."""

    rigs: dict[str, str] = Field(default_factory=dict)
    stops: dict[str, str] = Field(default_factory=dict)


class Said(BaseModel):
    """What a person said of a log beside its recipe; empty where the lines tell."""

    model_config = ConfigDict(extra="ignore")
    rig: str = ""
    stop: str = ""
    receiver: str = ""
    direction: str = ""
    condition: str = ""
    zone: str = "+00:00"
    day: date | None = None
    clock_s: float = 0.0
    anchor_s: float | None = None
    interval_s: float | None = None
    sent_per_visit: int | None = None
    names: Names = Field(default_factory=Names)

    def constants(self) -> Constants:
        """Return what the log stands for."""
        given = {
            Meaning.RIG: self.rig,
            Meaning.STOP: self.stop,
            Meaning.RECEIVER: self.receiver,
            Meaning.DIRECTION: self.direction,
            Meaning.CONDITION: self.condition,
        }
        return Constants(values={meaning: value for meaning, value in given.items() if value})


def wrong_zone(text: str) -> str:
    """Return what is wrong with a zone, empty for nothing."""
    try:
        zone_of(text)
    except ValueError as wrong:
        return str(wrong)
    return ""


def wrong_clock(text: str) -> str:
    """Return what is wrong with a time of day, empty for nothing."""
    try:
        clock_seconds(text)
    except ValueError as wrong:
        return f"{wrong}. Write it like 14:02:00."
    return ""


def said_of(file: FrameFile) -> Said:
    """Return what was said of a log."""
    return Said.model_validate(file.said)


def timeline_of(walk: Walk) -> Timeline:
    """Return who stood where on a walk."""
    return Timeline(
        StayOf(
            from_s=stay.from_time.timestamp(),
            to_s=stay.to_time.timestamp(),
            stop=stay.stop.label,
            rig=stay.rig.letter if stay.rig else "",
            condition=stay.condition,
            receiver=stay.receiver,
            sent=stay.sent,
        )
        for stay in walk.stays.select_related("stop", "rig")
    )


def log_reading(walk: Walk, recipe: Recipe, said: Said) -> LogReading:
    """Return how a log of a walk is read by a recipe and what was said."""
    return LogReading(
        recipe=recipe,
        constants=said.constants(),
        clocking=Clocking(
            zone=zone_of(said.zone),
            day=said.day or walk.walked_on,
            shift_s=said.clock_s,
            anchor_s=said.anchor_s,
        ),
        sending=Sending(
            interval_s=said.interval_s or walk.interval_s,
            per_visit=said.sent_per_visit or walk.frames_per_visit,
        ),
        timeline=timeline_of(walk),
    )


def reading_of(file: FrameFile) -> LogReading:
    """Return how a kept log is read."""
    return log_reading(file.walk, recipe_from_json(file.recipe), said_of(file))


NEW = "new"  # what a name is where it is to be made


@dataclass(frozen=True, slots=True, kw_only=True)
class Lacking:
    """Names in a walk's logs that the study lacks, with how many frames bear them."""

    rigs: Mapping[str, int]
    stops: Mapping[str, int]

    def __bool__(self) -> bool:
        """Tell whether there are any."""
        return bool(self.rigs or self.stops)


def lacking(files: Sequence[FrameFile]) -> Lacking:
    """Return the names that logs bear and their study lacks."""
    rigs: Counter[str] = Counter()
    stops: Counter[str] = Counter()
    for file in files:
        rigs.update(file.unknown.get("rigs", {}))
        stops.update(file.unknown.get("stops", {}))
    return Lacking(rigs=_in_order(rigs), stops=_in_order(stops))


def _in_order(names: Counter[str]) -> dict[str, int]:
    """Return names as a person counts them: 2 before 10."""
    return {name: names[name] for name in sorted(names, key=lambda name: (len(name), name))}
