"""Notes on the law a walk is read with: its words, the other laws, and drawn walls."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from inchmark.core.link_model.law import GROUND, SLOPE, TERRAIN, TWO_SLOPES, PathLaw
from inchmark.core.link_model.posterior import summarise
from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.laws import break_matters
from inchmark.core.reading.ranges import deciding
from inchmark.core.reading.result import CAUTION, FACT, Note
from inchmark.core.wording import distance, number, percent

LAW_WORDS = {
    SLOPE: "one slope",
    TWO_SLOPES: "two slopes that meet there",
    GROUND: "the loss over flat ground",
    TERRAIN: "the loss over the terrain, each stop by its own path",
}


def law_words(law: PathLaw) -> str:
    """Return a law as a note says it."""
    return LAW_WORDS[law.kind] + (" beside the walls" if law.walled else "")


def other_laws(analysis: Analysis) -> str:
    """Return how likely each law is, and what each alone would make of the ranges."""
    return analysis.once("other laws", lambda: _other_laws(analysis))


def _other_laws(analysis: Analysis) -> str:
    if analysis.laws is None or len(analysis.laws.fits) < 2:
        return "."
    parts = []
    for fitted, weight in zip(analysis.laws.fits, analysis.laws.weights, strict=True):
        again = replace(analysis, fit=fitted, laws=None, memo={})
        ranges = [
            f"{rig} {distance(reach.estimate)}"
            for rig in analysis.rigs
            if (reach := deciding(again, rig).reach)
        ]
        words = law_words(fitted.posterior.data.law)
        parts.append(f"{words} {percent(weight)}" + (f" ({', '.join(ranges)})" if ranges else ""))
    return f", and its ranges are mixed over the laws by how likely each is: {'; '.join(parts)}."


def walls(analysis: Analysis) -> Iterator[Note]:
    """Say how walls that are drawn count, or why they do not."""
    p, site = analysis.posterior, analysis.site
    if site.walls_left:
        yield _left(f"{site.walls_left[0].upper()}{site.walls_left[1:]}.")
    if site.walls is None or p is None:
        return
    if p.data.data_level_dbm is None:
        yield _left("No frame bears a level, and levels alone tell what walls cost.")
        return
    if p.wall_factor is None:
        yield _left(
            f"Levels fall as if they were not there: this walk is read with {law_words(p.data.law)}{other_laws(analysis)}",
            "Places stand as if no wall were drawn.",
        )
        return
    factor, crossed = summarise(np.maximum(p.wall_factor, 0.0)), _crossed(analysis)
    told = site.terrain is not None or break_matters(site, analysis.distances_m)
    read = f" This walk is read with {law_words(p.data.law)}{other_laws(analysis)}"
    behind = (
        f"{crossed} of {analysis.stop_count} stops lie behind one"
        if crossed
        else "No stop lies behind one, so what they cost is as said"
    )
    yield Note(
        code="walls_known",
        kind=FACT,
        title=f"Walls cost {number(factor.estimate, 2)} times what is said of them",
        text=f"{number(factor.low, 2)} to {number(factor.high, 2)}, 95 %; {behind}. Ranges hold along the walked bearings, places by the walls on their own way.{'' if told else read}",
        remedy="plan",
    )


def _left(why: str, so: str = "Ranges and places stand as if no wall were drawn.") -> Note:
    return Note(
        code="walls_left",
        kind=CAUTION,
        title="Walls are drawn, and this reading does not count them",
        text=f"{why} {so}",
        remedy="plan",
    )


def _crossed(analysis: Analysis) -> int:
    """Return how many of the stops lie behind a wall, from some receiver."""
    known = analysis.site.walls
    walked = {v.key.stop for v in analysis.visits}
    ways = known.ways.items() if known else ()
    return len({stop for (_, _, stop), loss in ways if loss > 0} & walked)


MAKERS = (walls,)
