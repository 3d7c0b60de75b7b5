"""Notes on the model itself: datasheet against walk, RSSI slope, bearings, units without a name."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from inchmark.core.link_model.posterior import summarise
from inchmark.core.link_model.priors import THRESHOLD_CONDUCTED_SD_DB, THRESHOLD_TYPE_SD_DB
from inchmark.core.reading.analysis import Analysis
from inchmark.core.reading.bearings import bearings_of
from inchmark.core.reading.measured import TO_CARRIED
from inchmark.core.reading.model_check import spread_ratio
from inchmark.core.reading.result import FACT, Note
from inchmark.core.wording import decibels, level, link_words, listed, number

CONFLICT_SD = 2.5
SPREAD_RATIOS = (0.67, 1.5)


def datasheet_conflict(analysis: Analysis) -> Iterator[Note]:
    """Say where the walk contradicts the datasheet."""
    p = analysis.posterior
    if p is None or not analysis.has_levels:
        return
    for one in p.data.thresholds:
        stated = one.prior.sensitivity_dbm
        links = [p.data.links[k] for k in one.links]
        if stated is None or not any(analysis.edge_shown(link) for link in links):
            continue
        found = p.threshold[:, one.links[0]]
        sd = THRESHOLD_CONDUCTED_SD_DB if one.prior.conducted else THRESHOLD_TYPE_SD_DB
        off = float(np.median(found)) - stated
        if abs(off) < CONFLICT_SD * float(np.hypot(sd, np.std(found))):
            continue
        limits = summarise(found)
        what = "bench" if one.prior.conducted else "datasheet"
        words = link_words(links[0].direction, links[0].receiver)
        yield Note(
            code="datasheet_conflict",
            rig=links[0].rig,
            title=f"{listed(sorted({link.rig for link in links}))}: the walk contradicts the {what}",
            text=f"The {what} says {level(stated)}, the walk {level(limits.estimate)} (95 % {number(limits.low)} … {number(limits.high)}){', ' + words if words else ''}: {decibels(off)}. Near an edge the walk outweighs the {what}. Look at RSSI scale, setting, supply and whether the right module is named.",
            remedy="shelf",
        )


def rssi_slope(analysis: Analysis) -> Iterator[Note]:
    """Say where RSSI does not count in dB: against S/N, or as strong and weak frames spread."""
    bent = [one for one in analysis.rssi_slopes.values() if one.believed]
    for one in bent:
        a = one.slope
        yield Note(
            code="rssi_slope",
            title=f"{one.module_type}: one dB of RSSI is {number(1 / a.estimate, 2)} dB",
            text=f"Over {one.visits} visits its RSSI rises by {number(a.estimate, 2)} dB (95 % {number(a.low, 2)} … {number(a.high, 2)}) where S/N rises by 1 dB. Levels and noise are brought to true dB about {level(one.pivot_dbm)} before anything is computed; the mean RSSI of a visit stays as it was read. A step attenuator on the bench tells for certain.",
            remedy="shelf",
        )
    ratio = None if bent or analysis.rssi_slopes else spread_ratio(analysis)
    if ratio is None or SPREAD_RATIOS[0] <= ratio <= SPREAD_RATIOS[1]:
        return
    yield Note(
        code="rssi_slope",
        title="The RSSI's dB may not be dB",
        text=f"Frames of strong visits spread {number(ratio, 2)} times as far as those of weak ones. An RSSI whose slope is off bends thresholds; ranges stay nearly right, for level and threshold err together. A step attenuator on the bench tells, or a log that carries S/N.",
        remedy="shelf",
    )


def bearings_differ(analysis: Analysis) -> Iterator[Note]:
    """Say where directions from the fixed end differ, or only seem to."""
    found = bearings_of(analysis)
    if found is None or not found.found:
        return
    best = max(found.sectors, key=lambda one: one.shadow_db.estimate)
    worst = min(found.sectors, key=lambda one: one.shadow_db.estimate)
    gap = best.shadow_db.estimate - worst.shadow_db.estimate
    yield Note(
        code="bearings",
        title="It depends on the direction",
        text=f"Between {best.low_deg:.0f}° and {best.high_deg:.0f}° places are {decibels(gap, sign=False)} better than between {worst.low_deg:.0f}° and {worst.high_deg:.0f}° (chance of that: {number(100 * found.p, 2)} %). One range over all bearings takes their spread into the scatter of places.",
        remedy="plan",
    )


def unit_unnamed(analysis: Analysis) -> Iterator[Note]:
    """Say what naming the receiving unit would gain where several rigs were heard at one end."""
    p = analysis.posterior
    if p is None:
        return
    bare = [
        link
        for link, prior in zip(p.data.links, p.data.priors, strict=True)
        if prior.module_type and not prior.unit and link.direction != TO_CARRIED
    ]
    kinds = {(p.data.priors[p.index(link)].module_type, link.receiver) for link in bare}
    if len({link.rig for link in bare}) < 2 or len(kinds) != 1:
        return
    yield Note(
        code="unit_unnamed",
        kind=FACT,
        title="The receiving unit has no name",
        text=f"{listed(sorted({link.rig for link in bare}))} may have been heard by one and the same unit; as it is not named, each is given a threshold of its own. Naming it makes their margin difference as sharp as their level difference (measured: 5.1 to 4.6 dB wide).",
        remedy="shelf",
    )


MAKERS = (datasheet_conflict, rssi_slope, bearings_differ, unit_unnamed)
