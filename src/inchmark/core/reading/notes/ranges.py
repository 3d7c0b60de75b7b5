"""Notes on ranges: why there is none, and what one of them leans on."""

from __future__ import annotations

from collections.abc import Iterator

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.ranges import fitted_range, loss_range, nearest_sensible_m, sensible
from inchmark.core.reading.result import Note
from inchmark.core.reading.rules import EXTRAPOLATION
from inchmark.core.wording import distance


def no_fit(analysis: Analysis) -> Iterator[Note]:
    """Say why there is no range at all."""
    if analysis.visits and analysis.fit is None:
        yield Note(
            code="no_fit",
            title="No range can be computed yet",
            text=f"{analysis.why_no_fit} Counts and last-heard distances are still shown.",
        )


def no_edge(analysis: Analysis) -> Iterator[Note]:
    """Name rigs that no stop brought to their edge."""
    for rig in analysis.rigs:
        if analysis.heard(rig) == 0 or analysis.edge_reached(rig) or analysis.posterior is None:
            continue
        yield Note(
            code="no_edge",
            rig=rig,
            title=f"{rig}: no edge was reached",
            text=_edge_words(analysis, rig),
        )


def _edge_words(analysis: Analysis, rig: str) -> str:
    if analysis.edge_bracketed(rig):
        return "One stop lost next to nothing, the next nearly all: the edge lies between them. A stop in between would measure the threshold and narrow the range."
    if analysis.facts[rig].prior.sensitivity_dbm is None:
        return "No stop lost between 5 and 95 % of its frames and no sensitivity is known, so there is no range. Walk farther, or give the rig a sensitivity."
    return "No stop lost between 5 and 95 % of its frames. The threshold rests on the datasheet; a stop farther out would measure it."


def implausible(analysis: Analysis) -> Iterator[Note]:
    """Name rigs whose figure is no range of a radio, so that none is shown."""
    for rig in analysis.rigs:
        reach = fitted_range(analysis, rig)
        if reach is None or sensible(analysis, reach):
            continue
        near = reach.estimate < nearest_sensible_m(analysis)
        words = (
            f"The counts put the range at {distance(reach.estimate)}, far nearer than the nearest stop ({distance(analysis.distances_m[0])}). Check how many frames were sent at each visit: the counter's width, the beacon interval and the frames typed for the walk."
            if near
            else f"The counts put the range at {distance(reach.estimate)}, farther than any walk can tell. Check the stops' distances, and walk to where frames are lost."
        )
        yield Note(
            code="range_implausible",
            rig=rig,
            title=f"{rig}: no range is shown, for it would make no sense",
            text=words,
        )


def extrapolated(analysis: Analysis) -> Iterator[Note]:
    """Name ranges far beyond the farthest stop."""
    for rig in analysis.rigs:
        farthest = max(v.distance_m for v in analysis.visits_of(rig))
        reach = loss_range(analysis, rig)
        if reach and reach.estimate > EXTRAPOLATION * farthest:
            yield Note(
                code="extrapolated",
                rig=rig,
                title=f"{rig}: range is extrapolated",
                text=f"{distance(reach.estimate)} lies beyond {EXTRAPOLATION:g} times the farthest stop ({distance(farthest)}). The slope may not go on like this.",
            )


MAKERS = (no_fit, implausible, no_edge, extrapolated)
