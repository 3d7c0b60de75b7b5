"""Notes on ranges: why there is none, and what one of them leans on."""

from __future__ import annotations

from collections.abc import Iterator

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.ranges import deciding, link_range, nearest_sensible_m, sensible
from inchmark.core.reading.result import FACT, Note
from inchmark.core.reading.rules import EXTRAPOLATION
from inchmark.core.wording import distance, link_words, listed


def no_fit(analysis: Analysis) -> Iterator[Note]:
    """Say why there is no range at all."""
    if analysis.visits and analysis.fit is None:
        yield Note(
            code="no_fit",
            title="No range can be computed yet",
            text=f"{analysis.why_no_fit} Counts and last-heard distances are still shown.",
            remedy="walk",
        )


def counts_only(analysis: Analysis) -> Iterator[Note]:
    """Say what a walk without levels can tell."""
    if analysis.posterior is not None and not analysis.has_levels:
        yield Note(
            code="counts_only",
            kind=FACT,
            title="Counts without levels",
            text="No frame bears a level, so thresholds in dBm are the datasheet's and nothing is said of signal. Ranges and differences are measured: where losses begin tells. A log with RSSI would narrow them several times.",
            remedy="walk",
        )


def no_edge(analysis: Analysis) -> Iterator[Note]:
    """Name rigs that no stop brought to their edge, by what that means."""
    if analysis.posterior is None:
        return
    kinds: dict[str, list[str]] = {}
    for rig in analysis.rigs:
        if analysis.heard(rig) and not any(map(analysis.edge_shown, analysis.links_of(rig))):
            kinds.setdefault(_edge_words(analysis, rig), []).append(rig)
    for words, rigs in kinds.items():
        yield Note(
            code="no_edge",
            rig=rigs[0] if len(rigs) == 1 else "",
            title=f"{listed(rigs)}: no edge shown",
            text=words,
            remedy="walk",
        )


def _edge_words(analysis: Analysis, rig: str) -> str:
    links = analysis.links_of(rig)
    if any(map(analysis.edge_bracketed, links)):
        return "One stop lost next to nothing, the next nearly all: the edge lies between them. A stop in between would measure the threshold and narrow the range."
    if not any(map(analysis.sensitivity_known, links)):
        return "At no stop did losses surely lie between 2 and 98 %, and no sensitivity is known, so there is no threshold and no range. Walk farther, or give the rig a sensitivity."
    return "At no stop did losses surely lie between 2 and 98 %. The threshold rests on the datasheet; a stop farther out would measure it."


def implausible(analysis: Analysis) -> Iterator[Note]:
    """Name rigs whose figure is no range of a radio, so that none is shown."""
    for rig in analysis.rigs:
        reach = deciding(analysis, rig).reach
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
            remedy="walk",
        )


def extrapolated(analysis: Analysis) -> Iterator[Note]:
    """Name ranges far beyond the farthest stop."""
    found = []
    for rig in analysis.rigs:
        farthest = max(row.distance_m for row in analysis.rows if row.link.rig == rig)
        reach = sensible(analysis, deciding(analysis, rig).reach)
        if reach and reach.estimate > EXTRAPOLATION * farthest:
            found.append((rig, reach.estimate, farthest))
    if found:
        words = [
            f"{rig}'s {distance(metres)} lies beyond {EXTRAPOLATION:g} times its farthest stop ({distance(far)})"
            for rig, metres, far in found
        ]
        yield Note(
            code="extrapolated",
            rig=found[0][0] if len(found) == 1 else "",
            title=f"{listed([rig for rig, *_ in found])}: range is extrapolated",
            text=f"{'; '.join(words)}. The slope may not go on like this.",
            remedy="plan",
        )


def links_differ(analysis: Analysis) -> Iterator[Note]:
    """Say how far apart the links of a rig reach, where that decides."""
    words, rigs = [], []
    for rig in analysis.rigs:
        ranges = {link: link_range(analysis, link) for link in analysis.links_of(rig)}
        known = sorted(
            (reach.estimate, link) for link, reach in ranges.items() if reach is not None
        )
        if len(known) < 2 or known[-1][0] / known[0][0] < EXTRAPOLATION:
            continue
        (short, near), (long, far) = known[0], known[-1]
        rigs.append(rig)
        words.append(
            f"{rig} {distance(short)} {link_words(near.direction, near.receiver)}, {distance(long)} {link_words(far.direction, far.receiver)}"
        )
    if rigs:
        yield Note(
            code="links_differ",
            kind=FACT,
            rig=rigs[0] if len(rigs) == 1 else "",
            title=f"{listed(rigs)}: links do not reach equally far",
            text=f"{'; '.join(words)}. What a rig's range stands for is said beside it.",
        )


MAKERS = (no_fit, counts_only, implausible, no_edge, extrapolated, links_differ)
