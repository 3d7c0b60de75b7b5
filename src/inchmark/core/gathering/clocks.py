"""How far the clocks of two sources are apart, from frames that both know."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from statistics import median

from inchmark.core.gathering.source import Source

LEAST_FRAMES = 3


def offset_s(of: Source, against: Source) -> tuple[float, int] | None:
    """Return the seconds to add to a source's times, and from how many frames; None for too few.

    Frames are the same where rig and counter agree and the counter is seen once in each; the median
    forgives a frame or two that only look the same.
    """
    ours, theirs = _once(of), _once(against)
    steps = [theirs[key] - ours[key] for key in ours.keys() & theirs.keys()]
    return (median(steps), len(steps)) if len(steps) >= LEAST_FRAMES else None


def _once(source: Source) -> dict[tuple[str, int], float]:
    keyed = [
        ((row.rig, row.seq), row.time_s)
        for _, row in source.told
        if row.seq is not None and row.time_s is not None
    ]
    counts = Counter(key for key, _ in keyed)
    return {key: time for key, time in keyed if counts[key] == 1}


def align(sources: Sequence[Source], automatic: set[str]) -> dict[str, tuple[float, int] | None]:
    """Shift the sources named to the first that is not; return what was found for each."""
    anchors = [source for source in sources if source.name not in automatic] or list(sources[:1])
    found: dict[str, tuple[float, int] | None] = {}
    for source in sources:
        if source.name in automatic and source not in anchors:
            steps = [step for anchor in anchors if (step := offset_s(source, anchor))]
            best = max(steps, key=lambda step: step[1], default=None)
            found[source.name] = best
            if best:
                source.shifted(best[0])
    return found
