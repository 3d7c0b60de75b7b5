"""Clocks of a walk's logs against each other, from frames that two of them know."""

from __future__ import annotations

from dataclasses import dataclass

from django.core.exceptions import ValidationError
from django.db import transaction

from inchmark.core.gathering.clocks import offset_s
from inchmark.core.gathering.source import Source
from inchmark.core.wording import listed
from inchmark.walk.adapters.logs import reading_of, said_of
from inchmark.walk.models import FrameFile, Walk
from inchmark.walk.services.by_recipe import lines_of_log, source_of
from inchmark.walk.services.recipes import AT_ONCE_BYTES, read_now

MOST_S = 86_400.0
SAME_S = 1.0  # clocks nearer than this are one: boards print when they are done


@dataclass(frozen=True, slots=True, kw_only=True)
class ClockRow:
    """A log whose clock is apart from another's: by how much [s], and from how many frames."""

    file: FrameFile
    against: FrameFile
    add_s: float
    frames: int

    @property
    def same(self) -> bool:
        """Tell whether the clocks agree."""
        return abs(self.add_s) < SAME_S

    @property
    def words(self) -> str:
        """Return how the clocks stand, in a sentence."""
        by = f"by {self.frames} frames that both know"
        if self.same:
            return f"{self.file.name} and {self.against.name} agree, {by}."
        how = "behind" if self.add_s > 0 else "before"
        return f"{self.file.name} is {abs(self.add_s):.0f} s {how} {self.against.name}, {by}."


def clock_rows(walk: Walk) -> list[ClockRow]:
    """Return how each log's clock stands against the first log it shares frames with."""
    files = walk.files.read_by_recipe()
    known: list[tuple[FrameFile, Source]] = []
    rows = []
    for file in files.filter(size_bytes__lte=AT_ONCE_BYTES):
        source = source_of(reading_of(file), lines_of_log(file), file.name)
        for other, against in known:
            if (step := offset_s(source, against)) is not None:
                rows.append(ClockRow(file=file, against=other, add_s=step[0], frames=step[1]))
                break
        known.append((file, source))
    return rows


def too_large(walk: Walk) -> str:
    """Return in a sentence which logs are not looked through while one waits; empty if all are."""
    files = walk.files.read_by_recipe()
    names = [file.name for file in files.filter(size_bytes__gt=AT_ONCE_BYTES)]
    if not names:
        return ""
    return f"Over {AT_ONCE_BYTES // 1_000_000} MB: {listed(names)}. Clocks of such logs are not compared here, and what of them counts at no stop is not drawn; to see both, split them by day. The frames count all the same."


@transaction.atomic
def set_clock(file: FrameFile, add_s: float) -> FrameFile:
    """Add seconds to a log's clock, and read it anew.

    Raises
    ------
    ValidationError
        That is more than a day.
    """
    said = said_of(file)
    shifted = said.clock_s + round(add_s, 1)
    if not abs(shifted) <= MOST_S:
        raise ValidationError(
            "A clock is set by a day at most. Say the date in the recipe instead."
        )
    file.said = said.model_copy(update={"clock_s": shifted}).model_dump(mode="json")
    file.save(update_fields=["said"])
    return read_now(file)
