"""Which parts are times, how they are written, and what of them has to be asked."""

from __future__ import annotations

from collections import Counter as Tally
from collections.abc import Iterator, Mapping, Sequence

from inchmark.core.recipe.clock import Kind, date_in, kind_of
from inchmark.core.recipe.columns import Column
from inchmark.core.recipe.names import Meaning
from inchmark.core.recipe.recipe import Question, Use

ABSOLUTE = (Kind.FULL, Kind.CLOCK, Kind.EPOCH_S, Kind.EPOCH_MS)


def times_of(
    stamps: Sequence[str], columns: Mapping[str, Column], questions: list[Question]
) -> tuple[list[Use], Kind | None, bool]:
    """Return the parts that are times, how lines are stamped, and whether months stand first."""
    kinds = Tally(kind for text in stamps if (kind := kind_of(text)))
    stamp = kinds.most_common(1)[0][0] if kinds else None
    uses = list(_time_columns(columns))
    dated = [*stamps, *(t for use in uses for t in columns[use.name].texts)]
    month_first = _month_first(dated, questions)
    return uses, stamp, month_first


def _time_columns(columns: Mapping[str, Column]) -> Iterator[Use]:
    found: set[Meaning] = set()
    for column in columns.values():
        meaning, kind = _time_of(column)
        if meaning is not None and meaning not in found:
            found.add(meaning)
            why = "its values are times" if column.positional else "its name says so"
            yield Use(name=column.name, meaning=meaning, kind=kind, reason=f"{why}: {kind}")


def _time_of(column: Column) -> tuple[Meaning | None, Kind | None]:
    sample = column.texts[:200]
    kinds = Tally(kind_of(text) for text in sample)
    kind, count = kinds.most_common(1)[0]
    dated = sum(date_in(text) is not None for text in sample) >= 0.9 * len(sample)
    if dated and kind is not Kind.FULL:
        return Meaning.DATE, Kind.FULL
    if kind is None or count < 0.8 * len(sample):
        return None, None
    if kind in (Kind.FULL, Kind.CLOCK) and not column.numeric:
        return Meaning.TIME, kind
    if kind in ABSOLUTE and (
        (column.meaning in (Meaning.TIME, None) and column.positional)
        or column.meaning is Meaning.TIME
    ):
        return Meaning.TIME, kind
    if column.meaning in (Meaning.TIME, Meaning.UPTIME) and column.numeric and _ascends(column):
        return Meaning.UPTIME, _since(column)
    return None, None


def _ascends(column: Column) -> bool:
    steps = [b - a for a, b in zip(column.numbers, column.numbers[1:], strict=False)]
    return not steps or sum(step >= 0 for step in steps) >= 0.8 * len(steps)


def _since(column: Column) -> Kind:
    unit, name = column.stated_unit, column.name.lower()
    if unit == "us" or "micros" in name:
        return Kind.UP_US
    if unit == "ms" or "milli" in name or "ms" in name or "tick" in name:
        return Kind.UP_MS
    whole = column.whole and max(column.numbers, default=0) > 86_400
    return Kind.UP_MS if whole else Kind.UP_S


def _month_first(texts: Sequence[str], questions: list[Question]) -> bool:
    """Tell whether the month stands before the day in dates like 11/14/2026."""
    slashed = [t for t in texts if "/" in t[:6] and (t[:1].isdigit() and not t[:4].isdigit())]
    if not slashed:
        return False
    pairs = [text.split("/")[:2] for text in slashed]
    if any(second.isdigit() and int(second) > 12 for _, second in pairs):
        return True
    if any(first.isdigit() and int(first) > 12 for first, _ in pairs):
        return False
    if len({first for first, _ in pairs}) == 1 == len({second for _, second in pairs}):
        first, second = pairs[0]
        if first != second:
            questions.append(
                Question(
                    f"Dates read {first}/{second}: is the month or the day first?",
                    "Keep the recipe (--keep FILE), set month_first in it and read with --recipe FILE.",
                )
            )
    return False
