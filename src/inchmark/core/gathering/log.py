"""How one log is read: its recipe, what it stands for, its clock, how frames were sent, who stood where."""

from __future__ import annotations

from dataclasses import dataclass, field

from inchmark.core.gathering.source import Constants
from inchmark.core.gathering.timeline import Timeline
from inchmark.core.gathering.visits import Sending
from inchmark.core.recipe.reader import Aside, Clocking, Damaged, Event, Fix, Told
from inchmark.core.recipe.recipe import Recipe

KEPT_ASIDE = 1_000
KEPT_FIXES = 500_000


@dataclass(frozen=True, slots=True, kw_only=True)
class LogReading:
    """All that turns a log's lines into frames; each of it can change without touching a line."""

    recipe: Recipe
    constants: Constants
    clocking: Clocking
    sending: Sending = field(default_factory=Sending)
    timeline: Timeline = field(default_factory=lambda: Timeline(()))


@dataclass(slots=True)
class Lines:
    """The lines of a log sorted by what they tell."""

    told: list[Told] = field(default_factory=list)
    damaged: list[Damaged] = field(default_factory=list)
    aside: list[Aside] = field(default_factory=list)
    fixes: list[Fix] = field(default_factory=list)
    no_frames: int = 0
    positions: int = 0

    def take(self, event: Event) -> None:
        """Take what a line tells; of lines that are no frames the first are kept."""
        if isinstance(event, Told):
            self.told.append(event)
        elif isinstance(event, Damaged):
            self.damaged.append(event)
        elif isinstance(event, Aside):
            self.no_frames += 1
            if len(self.aside) < KEPT_ASIDE:
                self.aside.append(event)
        elif isinstance(event, Fix):
            self.positions += 1
            if event.time_s is not None and len(self.fixes) < KEPT_FIXES:
                self.fixes.append(event)
