"""What `inchmark frames` says of logs: what each part was taken for and why, and what is no frame."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence

from inchmark.cli.log_read import LogRead
from inchmark.core.gathering.gather import Gathered
from inchmark.core.recipe.recipe import Recipe
from inchmark.core.wording import plural

SHOWN = 12  # lines of a kind; the rest are counted


def explain(
    logs: Sequence[LogRead], found: Gathered, aligned: Mapping[str, tuple[float, int] | None]
) -> Iterator[str]:
    """Yield the explanation of every log, then what they give together."""
    for log in logs:
        yield from told_of(log)
        if step := aligned.get(str(log.path)):
            yield f"  its clock was {step[0]:+.1f} s off, from {plural(step[1], 'frame')} both ends know"
    yield from _together(found)


def told_of(log: LogRead) -> Iterator[str]:
    """Yield what a log's parts were taken for, and its lines that are no frames."""
    yield f"{log.path}: {plural(len(log.lines.told), 'frame line')}, {plural(log.lines.no_frames, 'line')} no frame, {len(log.lines.damaged)} damaged, {plural(log.lines.positions, 'position')}"
    yield from _parts(log.proposal.recipe)
    if log.fell_back:
        yield f"  its clock fell back {plural(log.fell_back, 'time')}; frames are taken in the order of their times. Was it set meanwhile? Part the log there and say --clock for each."
    damaged = [f"damaged, line {d.number}: {d.reason} “{d.text[:80]}”" for d in log.lines.damaged]
    yield from _first(damaged, len(damaged), "damaged lines")
    aside = [f"no frame, line {line.number}: “{line.text[:80]}”" for line in log.lines.aside]
    yield from _first(aside, log.lines.no_frames, "lines that are no frames")


def _first(lines: Sequence[str], count: int, what: str) -> Iterator[str]:
    """Yield the first lines of a kind, and how many more there are."""
    yield from (f"  {line}" for line in lines[:SHOWN])
    if count > SHOWN:
        yield f"  and {count - SHOWN} more {what}"


def _parts(recipe: Recipe) -> Iterator[str]:
    for use in recipe.uses:
        as_what = "seq" if use.counter else use.meaning
        yield f"  “{use.name}” is {as_what}: {use.reason}"
    if recipe.stamp:
        yield f"  the start of a line is its time: {recipe.stamp}"
    if recipe.begins:
        yield f"  a frame is told over several lines; “{recipe.begins}” begins it"
    if recipe.unused:
        yield f"  kept and not used: {', '.join(f'“{name}”' for name in recipe.unused)}"


def _together(found: Gathered) -> Iterator[str]:
    visits = Counter(
        (row.rig, row.stop, row.condition, row.direction, row.receiver) for row in found.rows
    )
    heard = sum(row.heard for row in found.rows)
    yield f"Together: {plural(len(visits), 'visit')}, {plural(len(found.rows), 'frame')} sent, {heard} heard."
    if found.exchanges:
        yield f"Tries and answers: {', '.join(found.exchanges)}. A try without its answer is a loss of the pair; no leg is blamed."
    if found.senders:
        yield f"What was sent is known from {', '.join(found.senders)}."
    if found.without_stop:
        yield f"{plural(found.without_stop, 'frame')} lie between stops and do not count."
