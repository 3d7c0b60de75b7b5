"""A recipe: what was decided about the lines of a source, complete enough to read them again."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

from inchmark.core.recipe.cells import Heads
from inchmark.core.recipe.clock import Kind
from inchmark.core.recipe.names import Meaning
from inchmark.core.recipe.numbers import Written

FRAME_MAKERS = (Meaning.SEQ, Meaning.RSSI, Meaning.SNR)
TEXTS = (
    Meaning.RIG, Meaning.SOURCE, Meaning.RECEIVER, Meaning.STOP, Meaning.CONDITION,
    Meaning.DIRECTION,
)  # fmt: skip
STANDING = (*TEXTS, Meaning.NOISE, Meaning.DISTANCE)  # what a line may say for those after it


class Question(NamedTuple):
    """What a log leaves open, and how it is answered on the command line."""

    text: str
    how: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Counter:
    """A counter among the bytes of a payload: where it begins, how wide, which byte first."""

    offset: int
    width: int
    big_end_first: bool = True
    base64: bool = False
    ascii: bool = False  # the bytes are text, and the counter is the last number in it


@dataclass(frozen=True, slots=True, kw_only=True)
class Use:
    """What one named part is, and why it was taken for that."""

    name: str
    meaning: Meaning
    written: Written = field(default_factory=Written)
    kind: Kind | None = None  # of a time
    counter: Counter | None = None  # of a payload
    reason: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Recipe:
    """What each part of a source's line means.

    `begins` names the part that begins a frame where one is told over several lines. `stamp` says
    how the moment at the start of a line is written, where there is one.
    """

    uses: tuple[Use, ...]
    heads: tuple[str, ...] = ()
    delimiter: str = ""
    stamp: Kind | None = None
    month_first: bool = False
    begins: str = ""
    names_first: bool = False  # the first cell of a line is a value, and names no kind of line
    needs: tuple[Meaning, ...] = ()  # without these a line that looks like a frame is damaged
    unused: tuple[str, ...] = ()  # named parts that are kept and not used

    def use_of(self, meaning: Meaning) -> Use | None:
        """Return the first use of a meaning."""
        return next((use for use in self.uses if use.meaning is meaning), None)

    def table(self) -> Heads | None:
        """Return the heads of the table, where a header named its columns."""
        return Heads(self.heads, self.delimiter) if self.heads else None
