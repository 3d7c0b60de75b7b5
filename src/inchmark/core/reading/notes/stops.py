"""Notes on stops: distances in doubt, and too few of them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.laws import break_matters
from inchmark.core.reading.links import positions_by_stop
from inchmark.core.reading.measured import StopFacts
from inchmark.core.reading.notes.laws import law_words, other_laws
from inchmark.core.reading.positions import WalkedTo, walked_to
from inchmark.core.reading.result import FACT, Note
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
    positions = _positions(analysis)
    found = {
        stop: (metres, reasons)
        for stop, metres in {v.key.stop: v.distance_m for v in analysis.visits}.items()
        if (
            reasons := [
                *_doubts(analysis.stops.get(stop, StopFacts()), metres, slope),
                *_by_positions(positions.get(stop), metres, slope),
            ]
        )
    }
    if not found:
        return
    fifth = decibels(10 * slope * float(np.log10(1.2)), sign=False)
    words = [
        f"stop {stop}: {distance(metres)} is taken, but {listed(reasons)}"
        for stop, (metres, reasons) in found.items()
    ]
    text = "; ".join(words)
    yield Note(
        code="distance_doubtful",
        stop=next(iter(found)) if len(found) == 1 else "",
        title=f"{'Stop' if len(found) == 1 else 'Stops'} {listed(list(found))}: distance in doubt",
        text=f"{text[0].upper()}{text[1:]}. A 20 % error in distance is {fifth} at this slope; a written ± widens the limits. Measure again.",
        remedy="plan",
    )


def ground_break(analysis: Analysis) -> Iterator[Note]:
    """Say where the ground's reflection begins to cancel, if that lies near what was walked."""
    p, at = analysis.posterior, analysis.site.break_m
    matters = at is not None and break_matters(analysis.site, analysis.distances_m)
    if p is not None and analysis.site.terrain is not None:
        bends = (
            f" By heights and frequency the ground begins to cancel at {distance(at)}."
            if matters and at
            else ""
        )
        yield Note(
            code="terrain_known",
            kind=FACT,
            title="The terrain of the paths is known",
            text=f"This walk is read with {law_words(p.data.law)}{other_laws(analysis)}{bends}",
            remedy="plan",
        )
        return
    if p is None or at is None or not matters:
        return
    yield Note(
        code="ground_break",
        kind=FACT,
        title=f"The ground begins to cancel at {distance(at)}",
        text=f"By heights and frequency (4 h1 h2 / wavelength); beyond it levels fall faster. This walk is read with {law_words(p.data.law)}{other_laws(analysis)}",
        remedy="plan",
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


def _positions(analysis: Analysis) -> dict[str, WalkedTo]:
    """Return what positions of frames say of each stop's distance to the first receiver."""
    receivers = analysis.site.receivers
    spot = receivers[0].spot if receivers else None
    by_stop = positions_by_stop(analysis.visits)
    pairs = ((stop, walked_to(found, spot)) for stop, found in by_stop.items())
    return {stop: walked for stop, walked in pairs if walked is not None}


def _by_positions(walked: WalkedTo | None, metres: float, slope: float) -> list[str]:
    """Say what positions of frames hold against a distance, where it is worth a decibel."""
    if walked is None:
        return []
    error_db = 10 * slope * float(np.log10(1 + walked.sd_m(metres) / metres))
    if error_db < DOUBTFUL_DB:
        return []
    if walked.distance_m is not None and walked.off_m(metres) > walked.scatter_m:
        return [f"its frames were at {distance(walked.distance_m)} by their positions"]
    return [f"the positions of its frames scatter by {distance(walked.scatter_m)}"]


def few_stops(analysis: Analysis) -> Iterator[Note]:
    """Say where the stops cannot carry scatter or slope."""
    d = analysis.distances_m
    if analysis.posterior is None:
        return
    if analysis.stop_count < MIN_STOPS_SHADOWING:
        yield Note(
            code="few_stops",
            title=f"Only {plural(analysis.stop_count, 'stop')}",
            remedy="plan",
            text="The scatter from place to place needs at least five stops; until then the limits lean on what is usual outdoors, not on this site.",
        )
    if len(d) > 1 and d[-1] / d[0] < WANTED_SPREAD_EXPONENT:
        yield Note(
            code="narrow_spread",
            title="Stops too close together for a slope",
            remedy="plan",
            text=f"{distance(d[0])} to {distance(d[-1])} is a factor {number(d[-1] / d[0])}. A slope needs a factor of four; until then it leans on what is usual.",
        )


MAKERS = (few_stops, ground_break, distance_doubtful)
