"""A recipe proposed from lines: what each part is, why, and what has to be asked."""

from __future__ import annotations

from collections import Counter as Tally
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from inchmark.core.recipe.cells import Heads, header_of
from inchmark.core.recipe.clock import Kind, kind_of
from inchmark.core.recipe.columns import Column
from inchmark.core.recipe.counters import counter_use, other_counters
from inchmark.core.recipe.levels import level_uses
from inchmark.core.recipe.names import NO, YES, Act, Meaning, act_of
from inchmark.core.recipe.numbers import Written
from inchmark.core.recipe.parts import POSITION, Pieces
from inchmark.core.recipe.payload import counter_in
from inchmark.core.recipe.pieces import expanded, lead_of, taken_apart
from inchmark.core.recipe.recipe import FRAME_MAKERS, Question, Recipe, Use
from inchmark.core.recipe.text import MOST_CHARACTERS, plain
from inchmark.core.recipe.times import times_of

MOST_LINES, MOST_SEEN = 20_000, 1_000_000  # lines and characters looked at; more tell no more
USUAL = 0.7  # of the frames must bear a figure for a line without it to be damaged
# first words that say what kind of line it is
KNOWN_KINDS = frozenset(
    [
        "rx",
        "recv",
        "received",
        "got",
        "pkt",
        "packet",
        "frame",
        "msg",
        "dbg",
        "debug",
        "info",
        "warn",
        "err",
        "error",
        "log",
        "gps",
        "pos",
        "cfg",
        "stat",
        "status",
        "beacon",
        "ack",
    ]
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """What the user said before: what per cent is of [dBm], the date of the log."""

    percent: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """A recipe, what has to be asked first, and what each part was taken for."""

    recipe: Recipe
    questions: tuple[Question, ...] = ()
    columns: Mapping[str, Column] = field(default_factory=dict)
    frames: int = 0  # lines that look like frames, of those looked at
    only_positions: bool = False  # the log of a talking position receiver


@dataclass(slots=True)
class _Seen:
    """The lines looked at, taken apart, and their parts as columns."""

    heads: Heads | None
    pieces: list[tuple[int, Pieces]]
    names_first: bool = False
    columns: dict[str, Column] = field(default_factory=dict)

    @property
    def only_positions(self) -> bool:
        """Tell whether this is the log of a receiver of positions, and of nothing else."""
        talked = sum(pieces.form == POSITION for _, pieces in self.pieces)
        named = min(
            max((column.count for column in self.of(meaning)), default=0)
            for meaning in (Meaning.LAT, Meaning.LON)
        )
        return bool(self.pieces) and max(talked, named) > len(self.pieces) / 2

    def of(self, meaning: Meaning) -> list[Column]:
        return [column for column in self.columns.values() if column.meaning is meaning]


def sample_of(lines: Iterable[str]) -> list[str]:
    """Return the first lines of a log, as many as are looked at."""
    found, seen = [], 0
    for line in lines:
        found.append(line)
        seen += min(len(line), MOST_CHARACTERS)
        if len(found) >= MOST_LINES or seen >= MOST_SEEN:
            break
    return found


def propose(lines: Sequence[str], told: Told | None = None) -> Proposal:
    """Return a recipe for a log's lines; as many are looked at as `sample_of` takes."""
    told = told or Told()
    seen = _seen([plain(line) for line in sample_of(lines)])
    questions: list[Question] = []
    times, stamp, month_first = times_of(
        [pieces.stamp for _, pieces in seen.pieces if pieces.stamp], seen.columns, questions
    )
    taken = {use.name for use in times}
    texts = list(_texts(seen, taken))
    taken |= {use.name for use in texts}
    free = {name: c for name, c in seen.columns.items() if name not in taken}
    levels = level_uses(free, told.percent, questions)
    texts = _with_sender(texts, levels, seen, taken)
    groups = _groups(texts, seen)
    taken |= {use.name for use in (*levels, *texts)}
    rest = {name: c for name, c in seen.columns.items() if name not in taken}
    seq = counter_use(rest, groups, questions)
    counters = [seq, *other_counters(rest, seq, groups)] if seq else []
    places = _places(seen, taken | {use.name for use in counters})
    uses = [*counters, *levels, *texts, *places, *times]
    recipe = Recipe(
        uses=tuple(uses),
        heads=seen.heads.names if seen.heads else (),
        delimiter=seen.heads.delimiter if seen.heads else "",
        stamp=stamp,
        month_first=month_first,
        names_first=seen.names_first,
    )
    recipe = replace(recipe, begins=_begins(recipe, seen))
    frames = _frame_lines(recipe, seen)
    recipe = replace(
        recipe, needs=_needs(recipe, seen, frames), unused=_unused(recipe, seen, frames)
    )
    frames_told = any(use.meaning in FRAME_MAKERS for use in uses)
    if not frames_told and not seen.only_positions:
        questions.append(
            Question(
                "No part of a line looks like a counter, an RSSI or an S/N, so no line is a frame. Is this a frame log?",
                "A recipe file can say which part is what.",
            )
        )
    return Proposal(
        recipe=recipe,
        questions=tuple(questions),
        columns=seen.columns,
        frames=len(frames),
        only_positions=seen.only_positions and not frames_told,
    )


def _seen(lines: Sequence[str]) -> _Seen:
    heads = _header(lines)
    seen = _Seen(heads, [], names_first=heads is None and _names_first(lines))
    for number, line in enumerate(lines):
        if not line:
            continue
        for pieces in expanded(taken_apart(line, heads, names_first=seen.names_first)):
            seen.pieces.append((number, pieces))
            act = act_of(pieces.words)
            for part in pieces.parts:
                if pieces.form != POSITION and not _is_head(part.name, part.text, heads):
                    column = seen.columns.setdefault(part.name, Column(part.name))
                    column.add(part.text, part.unit, number, act)
    return seen


def _names_first(lines: Sequence[str]) -> bool:
    """Tell whether lines of one shape begin with names of their own, like boards, and not with a kind."""
    leads = Tally(lead for line in lines[:2000] if (lead := lead_of(line))[0].isalpha())
    by_count: dict[int, list[str]] = {}
    for (word, cells), times in leads.items():
        if times >= 3:
            by_count.setdefault(cells, []).append(word)
    kinds = [act_of(frozenset((lead.lower(),))) for own in by_count.values() for lead in own]
    told = KNOWN_KINDS.intersection(lead.lower() for own in by_count.values() for lead in own)
    several = any(len(own) >= 2 for own in by_count.values())
    return several and not told and all(kind is Act.HEARD for kind in kinds)


def _is_head(name: str, text: str, heads: Heads | None) -> bool:
    return heads is not None and text.lower() == name


def _header(lines: Sequence[str]) -> Heads | None:
    """Return the heads of a table: a line of names that the lines after it fit."""
    filled = [line for line in lines if line]
    for i, line in enumerate(filled[:60]):
        heads = header_of(line.lstrip("# "))
        following = filled[i + 1 : i + 31]
        if heads is None or not following:
            continue
        fits = [heads.cells(text) for text in following]
        fitting = [
            one for one in fits if one and any(c.isdigit() for p in one.parts for c in p.text)
        ]
        known = sum(Column(name).meaning is not None for name in heads.names)
        if len(fitting) >= 0.6 * len(following) and known >= 1:
            return heads
    return None


# ----------------------------------------------------------------------------------------- texts


_TEXTUAL = (
    Meaning.RIG, Meaning.STOP, Meaning.RECEIVER, Meaning.SOURCE, Meaning.CONDITION,
    Meaning.DIRECTION, Meaning.HEARD, Meaning.ACK, Meaning.CRC,
)  # fmt: skip
_PLACING = (
    Meaning.HOPS, Meaning.LAT, Meaning.LON, Meaning.HDOP, Meaning.SATELLITES, Meaning.DISTANCE,
)  # fmt: skip
_SWITCHES = (Meaning.HEARD, Meaning.ACK, Meaning.CRC)


def _texts(seen: _Seen, taken: set[str]) -> Iterator[Use]:
    for meaning in _TEXTUAL:
        for column in sorted(seen.of(meaning), key=lambda c: -c.count):
            if column.name in taken or not _fits(column, meaning):
                continue
            taken.add(column.name)
            yield Use(name=column.name, meaning=meaning, reason="its name says so")
            break


def _fits(column: Column, meaning: Meaning) -> bool:
    if meaning in _SWITCHES:
        return all(text.lower() in YES | NO for text in column.texts)
    if meaning is Meaning.STOP and column.stated_unit not in ("", "m", "km"):
        return False
    longest = max(len(text) for text in column.texts)
    few = column.distinct <= max(24, 0.2 * column.count)
    return longest <= 60 and few and not (column.numeric and not column.whole)


def _groups(texts: Sequence[Use], seen: _Seen) -> Mapping[int, str]:
    """Return whose counter each line tells of, where lines name a sender or a rig."""
    found: dict[int, str] = {}
    for use in texts:
        if use.meaning in (Meaning.SOURCE, Meaning.RIG):
            column = seen.columns[use.name]
            for line, text in zip(column.lines, column.texts, strict=True):
                found[line] = found.get(line, "") + "/" + text
    return found


def _with_sender(
    texts: list[Use], levels: Sequence[Use], seen: _Seen, taken: set[str]
) -> list[Use]:
    """Take a short text beside the level that only its place names, and few repeat, for the sender."""
    if any(use.meaning in (Meaning.SOURCE, Meaning.RIG) for use in texts):
        return texts
    framed = {use.name.split("[")[0] for use in levels}
    for column in seen.columns.values():
        beside = column.positional and column.name.split("[")[0] in framed
        if beside and column.name not in taken and not column.numeric and _repeats(column):
            why = f"a short text that repeats ({', '.join(sorted(set(column.texts))[:4])})"
            return [*texts, Use(name=column.name, meaning=Meaning.SOURCE, reason=why)]
    return texts


def _repeats(column: Column) -> bool:
    short = max(len(text) for text in column.texts) <= 16
    return short and column.count >= 4 and column.distinct <= max(2, min(12, column.count // 4))


def _places(seen: _Seen, taken: set[str]) -> Iterator[Use]:
    for meaning in _PLACING:
        for column in seen.of(meaning):
            if column.name not in taken and column.numeric:
                yield Use(name=column.name, meaning=meaning, reason="its name says so")
                break


# ---------------------------------------------------------------------------------- whole frames


def _begins(recipe: Recipe, seen: _Seen) -> str:
    """Return the part that begins a frame, where counter and level stand in lines of their own."""
    makers = [use for use in recipe.uses if use.meaning in FRAME_MAKERS]
    columns = [seen.columns[use.name] for use in makers if Act.HEARD in seen.columns[use.name].acts]
    if len(columns) < 2 or recipe.heads:
        return ""
    one, other = columns[0], columns[1]
    shared = set(one.lines) & set(other.lines)
    if min(one.count, other.count) < 3 or len(shared) > 0.1 * min(len(one.lines), len(other.lines)):
        return ""
    if not 0.4 <= one.count / other.count <= 2.5:
        return ""
    return min(columns, key=lambda column: column.lines[0]).name


def _frame_lines(recipe: Recipe, seen: _Seen) -> set[int]:
    names = {use.name for use in recipe.uses if use.meaning in FRAME_MAKERS}
    return {
        number for number, pieces in seen.pieces if any(part.name in names for part in pieces.parts)
    }


def _needs(recipe: Recipe, seen: _Seen, frames: set[int]) -> tuple[Meaning, ...]:
    """Return the figures nearly every heard frame bears."""
    heard = [
        {part.name for part in pieces.parts}
        for number, pieces in seen.pieces
        if number in frames and act_of(pieces.words) is Act.HEARD
    ]
    if not heard or recipe.begins:
        return tuple(use.meaning for use in recipe.uses if use.meaning is Meaning.SEQ)
    return tuple(
        use.meaning
        for use in recipe.uses
        if use.meaning in FRAME_MAKERS
        and sum(use.name in names for names in heard) >= USUAL * len(heard)
    )


def _unused(recipe: Recipe, seen: _Seen, frames: set[int]) -> tuple[str, ...]:
    used = {use.name for use in recipe.uses}
    beside = [
        column.name
        for column in seen.columns.values()
        if column.name not in used and frames.intersection(column.lines)
    ]
    return tuple(beside[:60])


def use_for(column: Column, meaning: Meaning) -> Use:
    """Return the use of a part that a person says the meaning of."""
    reason = "said by hand"
    if meaning in (Meaning.TIME, Meaning.UPTIME, Meaning.DATE):
        kinds = Tally(kind for text in column.texts[:200] if (kind := kind_of(text)))
        kind = kinds.most_common(1)[0][0] if kinds else Kind.FULL
        return Use(name=column.name, meaning=meaning, kind=kind, reason=reason)
    if meaning is Meaning.PAYLOAD:
        counter = counter_in(column.texts)
        return Use(name=column.name, meaning=meaning, counter=counter, reason=reason)
    inside = not column.numeric and not column.hexadecimal
    written = Written(
        hex=column.hexadecimal and meaning is Meaning.SEQ,
        inside=inside and meaning is Meaning.SEQ,
    )
    return Use(name=column.name, meaning=meaning, written=written, reason=reason)
