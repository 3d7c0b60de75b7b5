"""How one log is read: its recipe, what it stands for, its clock, how frames were sent, who stood where."""

from __future__ import annotations

from dataclasses import dataclass, field

from inchmark.core.gathering.source import Constants
from inchmark.core.gathering.timeline import Timeline
from inchmark.core.gathering.visits import Sending
from inchmark.core.recipe.reader import Clocking
from inchmark.core.recipe.recipe import Recipe


@dataclass(frozen=True, slots=True, kw_only=True)
class LogReading:
    """All that turns a log's lines into frames; each of it can change without touching a line."""

    recipe: Recipe
    constants: Constants
    clocking: Clocking
    sending: Sending = field(default_factory=Sending)
    timeline: Timeline = field(default_factory=lambda: Timeline(()))
