"""Notes on stops: distances in doubt, and too few of them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.measured import StopFacts
from inchmark.core.reading.result import Note
from inchmark.core.reading.rules import (
    DOUBTFUL_DB,
    DOUBTFUL_SHARE,
    GUESSED_METHODS,
    MIN_STOPS_SHADOWING,
    USUAL_EXPONENT,
    WANTED_SPREAD_EXPONENT,
)
from inchmark.core.wording import decibels, distance, listed, number, plural


def distance_doubtful(analysis: Analysis) -> Iterator[Note]:
    """Name stops whose distance may be wrong by a decibel or more."""
    p = analysis.posterior
    known = p is not None and analysis.slope_known()
    slope = float(np.median(p.exponent)) if p is not None and known else USUAL_EXPONENT
    for stop, metres in {v.key.stop: v.distance_m for v in analysis.visits}.items():
        reasons = _doubts(analysis.stops.get(stop, StopFacts()), metres, slope)
        if reasons:
            fifth = decibels(10 * slope * float(np.log10(1.2)), sign=False)
            yield Note(
                code="distance_doubtful",
                stop=stop,
                title=f"Stop {stop}: distance in doubt",
                text=f"{distance(metres)} is taken, but {listed(reasons)}. A 20 % error in distance is {fifth} at this slope. Measure it again.",
            )


def _doubts(facts: StopFacts, metres: float, slope: float) -> list[str]:
    off_m = facts.plus_minus_m or 0.0
    error_db = 10 * slope * float(np.log10(1 + off_m / metres))
    reasons = []
    if error_db >= DOUBTFUL_DB:
        reasons.append(f"±{number(off_m, 0)} m is {decibels(error_db, sign=False)} here")
    if facts.method.lower() in GUESSED_METHODS:
        reasons.append(f"it was measured by {facts.method.lower()}")
    if facts.geodesic_m and abs(facts.geodesic_m / metres - 1) > DOUBTFUL_SHARE:
        reasons.append(f"the coordinates say {distance(facts.geodesic_m)}")
    return reasons


def few_stops(analysis: Analysis) -> Iterator[Note]:
    """Say where the stops cannot carry scatter or slope."""
    d = analysis.distances_m
    if analysis.posterior is None:
        return
    if len(d) < MIN_STOPS_SHADOWING:
        yield Note(
            code="few_stops",
            title=f"Only {plural(len(d), 'stop')}",
            text="The scatter from place to place needs at least five stops; until then the limits lean on what is usual outdoors, not on this site.",
        )
    if len(d) > 1 and d[-1] / d[0] < WANTED_SPREAD_EXPONENT:
        yield Note(
            code="narrow_spread",
            title="Stops too close together for a slope",
            text=f"{distance(d[0])} to {distance(d[-1])} is a factor {number(d[-1] / d[0])}. A slope needs a factor of four; until then it leans on what is usual.",
        )


MAKERS = (distance_doubtful, few_stops)
