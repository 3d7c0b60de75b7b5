"""How notes name visits: one by its stop and rig, several as a list by rig."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.measured import MeasuredVisit
from inchmark.core.reading.result import Note
from inchmark.core.reception.visit import VisitSummary
from inchmark.core.wording import link_words, listed, plural

MOST_NAMED = 8


def where(visit: MeasuredVisit) -> str:
    """Return a visit in words."""
    link = link_words(visit.key.direction, visit.key.receiver)
    return f"Stop {visit.key.stop}, rig {visit.key.rig}" + (f" ({link})" if link else "")


def places(visits: Sequence[MeasuredVisit]) -> str:
    """Return visits in words: the stops of each rig."""
    by_rig: dict[str, list[str]] = {}
    for visit in visits:
        own = by_rig.setdefault(visit.key.rig, [])
        if visit.key.stop not in own:
            own.append(visit.key.stop)
    parts = []
    for rig, stops in sorted(by_rig.items()):
        named = list(stops[:MOST_NAMED])
        if len(stops) > MOST_NAMED:
            named.append(f"{len(stops) - MOST_NAMED} more")
        parts.append(f"{rig} at {'stop' if len(stops) == 1 else 'stops'} {listed(named)}")
    return "; ".join(parts)


@dataclass(frozen=True, slots=True)
class Found:
    """The visits a note is about, as indices, the one that tells most first."""

    analysis: Analysis
    indices: tuple[int, ...]

    @property
    def many(self) -> str:
        """Return how many visits there are, in words."""
        return plural(len(self.indices), "visit")

    @property
    def first(self) -> str:
        """Return the first of them in words."""
        return where(self.analysis.visits[self.indices[0]])

    @property
    def places(self) -> str:
        """Return all of them in words."""
        return places([self.analysis.visits[i] for i in self.indices])

    def note(self, code: str, title: str, text: str, **more: str) -> Note:
        """Return one note on all of them."""
        visits = [self.analysis.visits[i] for i in self.indices]
        rigs, stops = {v.key.rig for v in visits}, {v.key.stop for v in visits}
        refs = tuple(v.ref for v in visits if v.ref is not None)
        return Note(
            code=code,
            title=title,
            text=text,
            rig=rigs.pop() if len(rigs) == 1 else "",
            stop=stops.pop() if len(stops) == 1 else "",
            ref=refs[0] if refs else None,
            refs=refs,
            **more,
        )


def counted(
    analysis: Analysis,
    code: str,
    count: Callable[[VisitSummary], int],
    words: Callable[[Found, int], tuple[str, str]],
    **more: str,
) -> Iterator[Note]:
    """Yield a note on the visits that counted something, most first; nothing where none did.

    `words` makes title and text of the visits found and of how often in all.
    """
    counts = [count(visit.summary) for visit in analysis.visits]
    found = sorted((i for i, n in enumerate(counts) if n), key=lambda i: -counts[i])
    if found:
        visits = Found(analysis, tuple(found))
        yield visits.note(code, *words(visits, sum(counts)), **more)
