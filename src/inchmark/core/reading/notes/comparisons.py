"""Notes on rig against rig: what a difference can and cannot be put down to."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.comparing import differences
from inchmark.core.reading.measured import MeasuredVisit
from inchmark.core.reading.ranges import deciding
from inchmark.core.reading.result import FACT, GOOD, Note
from inchmark.core.wording import listed, plural


def one_change(analysis: Analysis) -> Iterator[Note]:
    """Name rigs that differ from the first by more than one thing."""
    if len(analysis.rigs) < 2:
        return
    reference = analysis.rigs[0]
    before = dict(analysis.facts[reference].varied)
    for rig in analysis.rigs[1:]:
        after = dict(analysis.facts[rig].varied)
        changed = [name for name in before if name in after and before[name] != after[name]]
        if len(changed) > 1:
            yield Note(
                code="one_change",
                rig=rig,
                title=f"{rig} changed {len(changed)} things",
                text=f"{rig} differs from {reference} by {listed(changed)}. Its gain cannot be split between them. Add a rig that changes one.",
            )


def confounded_condition(analysis: Analysis) -> Iterator[Note]:
    """Name rigs that were carried like no other."""
    for rig, own in _alone(analysis, lambda v: v.key.condition):
        text = f"{rig} was always carried “{listed(own)}”, no other rig was. Its difference cannot be told from the way it was carried."
        yield _never("confounded_condition", rig, "carried like the others", text)


def confounded_walk(analysis: Analysis) -> Iterator[Note]:
    """Name rigs that had a walk of their own."""
    for rig, own in _alone(analysis, lambda v: v.key.walk):
        text = f"{rig} was in walk {listed(own)} only, no other rig was. Weather, wet ground, batteries and whoever carried it are in its difference; walk it beside another."
        yield _never("confounded_walk", rig, "walked with the others", text)


def _never(code: str, rig: str, what: str, text: str) -> Note:
    return Note(code=code, rig=rig, title=f"{rig} was never {what}", text=text)


def _alone(
    analysis: Analysis, of: Callable[[MeasuredVisit], str]
) -> Iterator[tuple[str, list[str]]]:
    """Yield rigs that share no value of something with any other rig, and their values."""
    if len({of(v) for v in analysis.visits}) < 2:
        return
    for rig in analysis.rigs:
        own = {of(v) for v in analysis.visits_of(rig)}
        others = {of(v) for v in analysis.visits if v.key.rig != rig}
        if others and not own & others:
            yield rig, sorted(own)


def shared_stops(analysis: Analysis) -> Iterator[Note]:
    """Say whether rigs shared their places, and on the same walks."""
    if len(analysis.rigs) < 2:
        return
    stops = [{v.key.stop for v in analysis.visits_of(rig)} for rig in analysis.rigs]
    shared, every = set.intersection(*stops), set.union(*stops)
    if len(shared) < len(every):
        yield Note(
            code="unpaired",
            title="Rigs did not share all stops",
            text=f"Only {len(shared)} of {plural(len(every), 'stop')} saw every rig. The places differ as well as the rigs, and that widens every difference.",
        )
    elif len(shared) > 1 and _compared(analysis):
        yield _same_stops(analysis, len(shared))


def _same_stops(analysis: Analysis, stops: int) -> Note:
    outings = [{(v.key.stop, v.key.walk) for v in analysis.visits_of(rig)} for rig in analysis.rigs]
    rigs = listed(list(analysis.rigs))
    if set.intersection(*outings) == set.union(*outings):
        return Note(
            code="paired",
            kind=GOOD,
            title="All rigs stood at the same stops",
            text=f"{rigs} shared all {stops} stops on the same walks, so they shared the shadowing: differences in dB are sharper than ranges.",
        )
    return Note(
        code="same_stops_other_walks",
        kind=FACT,
        title="Same stops, but not on the same walks",
        text=f"{rigs} shared all {stops} stops, not every walk. The place is the same; weather, tide and wet ground of the day are in the differences.",
    )


def _compared(analysis: Analysis) -> bool:
    """Tell whether a difference can be computed between any rig and the first."""
    by = {rig: deciding(analysis, rig) for rig in analysis.rigs}
    return any(row.margin_db or row.signal_db for row in differences(analysis, by))


MAKERS = (confounded_condition, confounded_walk, one_change, shared_stops)
