"""How notes name visits: one by its stop and rig, several as a list by rig."""

from __future__ import annotations

from collections.abc import Sequence

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.measured import MeasuredVisit
from inchmark.core.reading.result import Note
from inchmark.core.wording import link_words, listed

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


def about(
    analysis: Analysis, indices: Sequence[int], code: str, title: str, text: str, **more: str
) -> Note:
    """Return one note on all visits of a kind, the one that tells most first."""
    visits = [analysis.visits[i] for i in indices]
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
