"""One line of an answer: what, how much, by which formula, known from where."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

PRACTICE, DEFINITION = "common practice", "definition"


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """A figure as a person reads it, with its formula and source."""

    what: str
    value: str
    formula: str = ""
    source: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Reach:
    """A range on a tape [m], to be drawn."""

    low_m: float
    middle_m: float
    high_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Answers:
    """What a question gives: lines, sentences beside them, a range to draw."""

    lines: Sequence[Line]
    says: Sequence[str] = ()
    reach: Reach | None = None
