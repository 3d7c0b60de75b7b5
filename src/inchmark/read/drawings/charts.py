"""What the charts of Read draw, as data: marks, words and every choice are made here."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import groupby
from typing import Any

import numpy as np
from django.urls import reverse

from inchmark.core.interval import Estimate
from inchmark.core.reading.result import Curve, Reading, VisitReading
from inchmark.core.wording import decibels, distance, level, listed, number, percent
from inchmark.pages.rig_signs import dot, hue
from inchmark.studies.models import Study

SAME_LINE_DB = 3.0  # thresholds nearer than that share a line and a label
APART = 6.0  # rigs share stops, so their marks stand so far apart; a drawing aid
HEARD_ALONE = "mean of heard ones alone"
Json = dict[str, Any]


def chart_data(study: Study, reading: Reading) -> Json:
    """Return what the charts draw: points with limits, curves, lines across, words."""
    rigs = [one.rig for one in reading.rigs]
    curves = {curve.rig: curve for curve in reading.curves}
    allowed = 1 - reading.rules.loss
    points = list(_points(study, reading, rigs))
    return {
        "rigs": [
            {"letter": rig, "hue": hue(rig), "curve": _curve(curves[rig]) if rig in curves else []}
            for rig in rigs
        ],
        "points": points,
        "rule": {"at": allowed, "words": f"rule: {percent(allowed)} delivered"},
        "thresholds": list(_threshold_lines(reading)),
        "slope": _slope_words(reading),
        "ticks": [{"at": metres, "words": distance(metres)} for metres in _distances(reading)],
        "heard_alone": {"point": _loudest(reading), "words": HEARD_ALONE},
    }


def _curve(curve: Curve) -> list[Json]:
    return [
        {
            "distance": point.distance_m,
            "level": _three(point.level_dbm),
            "delivery": _three(point.delivery),
        }
        for point in curve.points
    ]


def _three(found: Estimate | None) -> list[float] | None:
    return None if found is None else [found.estimate, found.low, found.high]


def _points(study: Study, reading: Reading, rigs: Sequence[str]) -> Iterator[Json]:
    middle = (len(rigs) - 1) / 2
    for one in reading.visits:
        loss = one.loss
        yield {
            "hue": hue(one.rig),
            "mark": dot(one.rig),
            "aside": APART * (rigs.index(one.rig) - middle),
            "distance": one.distance_m,
            "heard": one.heard > 0,
            "delivered": [1 - loss.estimate, 1 - loss.high, 1 - loss.low],
            "level": _three(one.level_dbm),
            "heard_level": one.heard_level_dbm if one.heard_reads_high else None,
            "words": _words(one),
            "url": reverse("read:visit", args=[study.pk, one.ref]) if one.ref else None,
        }


def _words(visit: VisitReading) -> str:
    delivered = f"{percent(1 - visit.loss.high)} to {percent(1 - visit.loss.low)} delivered"
    said = f"{visit.rig} at stop {visit.stop}, {distance(visit.distance_m)}: {visit.heard} of {visit.sent} heard, {delivered}"
    if visit.level_dbm:
        limits = f"{level(visit.level_dbm.low)} to {level(visit.level_dbm.high)}"
        said += f"; level {level(visit.level_dbm.estimate)} ({limits})"
    if visit.heard_level_dbm is not None:
        said += f", heard ones alone {level(visit.heard_level_dbm)}"
    return said


def _threshold_lines(reading: Reading) -> Iterator[Json]:
    """Yield a line across for thresholds close together; the exact ones stand in tables."""
    known = [(one.threshold_dbm.estimate, one.rig) for one in reading.rigs if one.threshold_dbm]
    known.sort(reverse=True)
    for _, rows in groupby(known, key=_Grouping(SAME_LINE_DB)):
        group = list(rows)
        mean = float(np.mean([dbm for dbm, _ in group]))
        rigs = listed([rig for _, rig in group])
        yield {"at": mean, "words": f"{rigs}: half of frames lost, {level(mean)}"}


class _Grouping:
    """Numbers values that fall, one number for those nearer than a step to the group's first."""

    def __init__(self, step: float) -> None:
        self.step, self.first, self.number = step, float("inf"), 0

    def __call__(self, row: tuple[float, str]) -> int:
        if self.first - row[0] >= self.step:
            self.first, self.number = row[0], self.number + 1
        return self.number


def _slope_words(reading: Reading) -> str:
    exponent, spread = reading.site.exponent, reading.site.shadowing_db
    if exponent is None:
        return ""
    places = f" · places ±{decibels(spread.estimate, sign=False)}" if spread else ""
    return f"slope {number(10 * exponent.estimate)} dB per ×10{places}"


def _loudest(reading: Reading) -> int | None:
    """Return the place of the point whose heard frames mislead most; it carries the label."""
    found = [
        (one.heard_level_dbm - one.level_dbm.estimate, i)
        for i, one in enumerate(reading.visits)
        if one.heard_reads_high and one.heard_level_dbm is not None and one.level_dbm
    ]
    return max(found)[1] if found else None


def _distances(reading: Reading) -> list[float]:
    """Return distances to label [m]: 1, 2 and 5 of every decade that stops and curves touch."""
    shown = [one.distance_m for one in reading.visits]
    low, high = 0.8 * min(shown), 1.6 * max(shown)
    decades = range(int(np.floor(np.log10(low))), int(np.ceil(np.log10(high))) + 1)
    return [d for e in decades for n in (1, 2, 5) if low <= (d := float(n * 10.0**e)) <= high]
