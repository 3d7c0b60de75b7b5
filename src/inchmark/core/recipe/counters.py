"""Which part counts the frames: by its name, by how it grows, inside a text or a payload."""

from __future__ import annotations

from collections.abc import Mapping

from inchmark.core.recipe.columns import Column
from inchmark.core.recipe.names import Meaning
from inchmark.core.recipe.numbers import Written
from inchmark.core.recipe.payload import counter_in, grows
from inchmark.core.recipe.recipe import Question, Use

SURE = 0.6  # of the steps must go on for a part to be a counter by its figures alone
WEAK = frozenset(("id", "t", "n", "nr", "no", "message", "msg", "hello", "name"))


def counter_use(
    columns: Mapping[str, Column], lines: Mapping[int, str], questions: list[Question]
) -> Use | None:
    """Return the part that counts frames; `lines` names whose counter each line tells of."""
    named = [c for c in columns.values() if c.meaning is Meaning.SEQ and _whole(c)]
    grown = {c.name: _share(c, lines) for c in named}
    good = [c for c in named if grown[c.name] > 0 or c.count < 4]
    if good:
        best = max(
            good, key=lambda c: (grown[c.name] >= SURE, c.name not in WEAK, grown[c.name], c.count)
        )
        return Use(
            name=best.name,
            meaning=Meaning.SEQ,
            written=Written(hex=best.hexadecimal),
            reason="its name says so" + (" (hexadecimal)" if best.hexadecimal else ""),
        )
    return _inside(columns, lines) or _in_payload(columns) or _by_place(columns, lines, questions)


def other_counters(
    columns: Mapping[str, Column], first: Use, lines: Mapping[int, str]
) -> list[Use]:
    """Return the counters of lines that tell of something else, like “miss 12” or “pong 3”."""
    found: list[Use] = []
    covered = set(columns[first.name].acts) if first.name in columns else set()
    for column in columns.values():
        mine = column.acts - covered
        if column.name == first.name or len(column.acts) != 1 or not mine or column.count < 2:
            continue
        if _whole(column) and column.distinct > 1 and _share(column, lines) >= SURE:
            covered |= mine
            why = f"it goes on in lines of frames {mine.pop()}"
            written = Written(hex=column.hexadecimal)
            found.append(Use(name=column.name, meaning=Meaning.SEQ, written=written, reason=why))
    return found


def _whole(column: Column) -> bool:
    return (column.numeric and column.whole) or column.hexadecimal


def _share(column: Column, lines: Mapping[int, str]) -> float:
    groups = [lines.get(line, "") for line in column.lines] if lines else None
    return column.counts_up(groups)


def _inside(columns: Mapping[str, Column], lines: Mapping[int, str]) -> Use | None:
    """Return a text whose last number goes on, as in “hello 12”."""
    written = Written(inside=True)
    for column in columns.values():
        texts = [text for text in column.texts if any(c.isdigit() for c in text)]
        if column.numeric or column.hexadecimal or len(texts) < max(3, 0.9 * column.count):
            continue
        if not any(c.isalpha() for c in texts[0]) or _hex(texts):
            continue
        try:
            values = [written.value(text) or 0.0 for text in texts]
        except ValueError:
            continue
        if grows(values) >= SURE:
            why = f"the number in “{texts[0][:24]}” goes on"
            return Use(name=column.name, meaning=Meaning.SEQ, written=written, reason=why)
    return None


def _hex(texts: list[str]) -> bool:
    return all(len(t) >= 6 and set(t.lower()) <= set("0123456789abcdef :-") for t in texts)


def _in_payload(columns: Mapping[str, Column]) -> Use | None:
    for column in columns.values():
        short = max(map(len, column.texts)) <= 10 and column.meaning is not Meaning.PAYLOAD
        hex_number = short and column.hexadecimal
        if column.count < 3 or max(map(len, column.texts)) < 4 or hex_number:
            continue
        if column.numeric and column.meaning is not Meaning.PAYLOAD:
            continue
        found = counter_in(column.texts)
        if found:
            where = (
                "as text" if found.ascii else
                f"at byte {found.offset}, {found.width} wide, {'high' if found.big_end_first else 'low'} byte first"
            )  # fmt: skip
            why = f"a counter grows in its bytes, {where}"
            return Use(name=column.name, meaning=Meaning.PAYLOAD, counter=found, reason=why)
    return None


def _by_place(
    columns: Mapping[str, Column], lines: Mapping[int, str], questions: list[Question]
) -> Use | None:
    """Return the part that nothing names and that goes on by one."""
    shares = {
        c.name: (_share(c, lines), c.by_one())
        for c in columns.values()
        if c.meaning is None and _whole(c) and c.count >= 3 and c.distinct > 2
    }
    growing = sorted((name for name in shares if shares[name][0] >= SURE), key=lambda n: shares[n])
    if not growing:
        return None
    best = columns[growing[-1]]
    if len(growing) > 1 and shares[growing[-1]] == shares[growing[-2]]:
        questions.append(
            Question(
                f"“{growing[-1]}” and “{growing[-2]}” both go on like a counter. Which of them counts the frames?",
                "Keep the recipe (--keep FILE), leave one of them and read with --recipe FILE.",
            )
        )
    return Use(
        name=best.name,
        meaning=Meaning.SEQ,
        written=Written(hex=best.hexadecimal),
        reason="it goes on by one" + (" (hexadecimal)" if best.hexadecimal else ""),
    )
