"""One log that `inchmark frames` has read."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

from inchmark.core.gathering.log import Lines
from inchmark.core.recipe.propose import Proposal


@dataclass(slots=True)
class LogRead:
    """One log read: its recipe, and its lines by what they tell."""

    path: Path
    proposal: Proposal
    lines: Lines = field(default_factory=Lines)
    fell_back: int = 0  # how often its clock did
