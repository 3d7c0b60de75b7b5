"""The charts of Read: frames delivered, signal, the waterfall, what is left over, noise."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import groupby

import numpy as np
from django.urls import reverse

from inchmark.core.interval import Estimate
from inchmark.core.reading.beside import BesideRow
from inchmark.core.reading.result import Reading, VisitReading
from inchmark.core.wording import decibels, distance, level, link_words, listed, number, percent
from inchmark.pages.plot import Axis, axis_around
from inchmark.pages.rig_signs import dot, hue
from inchmark.read.drawings.chart import (
    HEIGHT,
    WIDTH,
    Across,
    Chart,
    Framing,
    KeyRow,
    Line,
    Mark,
    Said,
    band_of,
    distance_axis,
    distance_ticks,
    frame_of,
    spread_letters,
)
from inchmark.studies.models import Study

SAME_LINE_DB = 3.0  # thresholds nearer than that share a line and a label
APART = 7.0  # rigs share stops, so their marks stand so far apart; a drawing aid
HEARD_ALONE = "mean of heard ones alone"
NO_LEVEL = "No frame was heard with a level."


class ReadCharts:
    """All charts of a reading, over shared axes."""

    def __init__(self, study: Study, reading: Reading) -> None:
        """Lay out the distance axis once for all."""
        self.study, self.reading = study, reading
        self.rigs = [one.rig for one in reading.rigs]
        self.x = distance_axis([one.distance_m for one in reading.visits])
        self.ticks = distance_ticks(self.x)
        self.framing = Framing(reading.visits, reading.site.condition)

    def key(self) -> list[KeyRow]:
        """Return what frames around marks stand for."""
        return self.framing.key()

    def main(self) -> list[Chart]:
        """Return the charts shown first."""
        return [self.delivery(), self.signal()]

    def folded(self) -> list[Chart]:
        """Return the charts behind a fold: the waterfall itself, residuals, noise."""
        return [self.waterfall(), self.residuals(), self.noise()]

    def delivery(self) -> Chart:
        """Return frames delivered against distance."""
        y = Axis(low=0, high=1, start=HEIGHT, end=0)
        allowed = 1 - self.reading.rules.loss
        marks = [
            self._mark(
                one, self._place(one), y, 1 - one.loss.estimate, 1 - one.loss.high, 1 - one.loss.low
            )
            for one in self.reading.visits
        ]
        return Chart(
            key="delivery",
            title="Frames delivered",
            under=f"% of frames sent, 95 % limits; dotted: the rule, {percent(allowed)}",
            frame=frame_of(self.x, self.ticks, y.ticks(y.round_values(5), percent)),
            marks=tuple(marks),
            lines=self._curves(y, "delivery"),
            across=(Across(y=y.at(allowed), words=""),),
        )

    def signal(self) -> Chart:
        """Return levels against distance, lost frames counted."""
        reading = self.reading
        seen = [one.level_dbm.estimate for one in reading.visits if one.level_dbm and one.heard]
        seen += [one.heard_level_dbm for one in reading.visits if one.heard_level_dbm is not None]
        title, under = "Signal at the receiver", "dBm, lost frames counted, 95 % limits"
        if not seen:
            frame = frame_of(self.x, self.ticks, ())
            return Chart(key="signal", title=title, under=under, frame=frame, empty=NO_LEVEL)
        lines = [one.threshold_dbm.estimate for one in reading.rigs if one.threshold_dbm]
        y = Axis(
            low=min(*seen, *lines, *seen) - 8, high=max(seen) + 5, start=HEIGHT, end=0, held=True
        )
        marks = [mark for one in reading.visits if (mark := self._signal_mark(one, y)) is not None]
        words = _slope_words(reading)
        said = [Said(x=WIDTH, y=2, words=words, anchor="end")] if words else []
        said += self._survivor(marks)
        return Chart(
            key="signal",
            title=title,
            under=under,
            frame=frame_of(self.x, self.ticks, y.ticks(y.round_values(6), _plain)),
            marks=tuple(marks),
            lines=self._curves(y, "level_dbm"),
            across=tuple(_threshold_lines(reading, y)),
            said=tuple(said),
        )

    def waterfall(self) -> Chart:
        """Return loss against level over threshold: the edge itself, whatever the distance."""
        known = [one for one in self.reading.visits if one.in_hand is not None]
        title, under = "The edge itself", "% lost against dB above the threshold; dotted: half"
        if not known:
            frame = frame_of(self.x, (), ())
            return Chart(
                key="waterfall",
                title=title,
                under=under,
                frame=frame,
                empty="No threshold is known.",
            )
        hands = [one.in_hand.estimate for one in known if one.in_hand]
        x = axis_around([max(min(hands), -20.0), min(max(hands), 40.0)], 0, WIDTH)
        x = Axis(low=x.low, high=x.high, start=0, end=WIDTH, held=True)
        y = Axis(low=0, high=1, start=HEIGHT, end=0)
        marks = [
            self._mark(one, x.at(hand.estimate), y, *_three(one.loss))
            for one in known
            if (hand := one.in_hand) is not None
        ]
        return Chart(
            key="waterfall",
            title=title,
            under=under,
            frame=frame_of(
                x, x.ticks(x.round_values(6), _plain), y.ticks(y.round_values(5), percent)
            ),
            marks=tuple(marks),
            across=(Across(y=y.at(0.5), words=""),),
        )

    def residuals(self) -> Chart:
        """Return what the place adds to each level, against distance."""
        rows = [
            (one, one.level_dbm.estimate - one.expected_dbm, one.level_dbm)
            for one in self.reading.visits
            if one.level_dbm and one.expected_dbm is not None and one.heard
        ]
        title, under = "What the place adds", "dB, level against the law at that distance"
        if not rows:
            frame = frame_of(self.x, self.ticks, ())
            return Chart(key="residual", title=title, under=under, frame=frame, empty=NO_LEVEL)
        y = axis_around([-6.0, 6.0, *(off for _, off, _ in rows)], HEIGHT, 0)
        marks = [
            self._mark(
                one,
                self._place(one),
                y,
                off,
                off - (limits.estimate - limits.low),
                off + (limits.high - limits.estimate),
            )
            for one, off, limits in rows
        ]
        return Chart(
            key="residual",
            title=title,
            under=under,
            frame=frame_of(self.x, self.ticks, y.ticks(y.round_values(5), _signed)),
            marks=tuple(marks),
            across=(Across(y=y.at(0), words=""),),
        )

    def noise(self) -> Chart:
        """Return the noise of each visit against distance."""
        rows = [(one, one.noise_dbm) for one in self.reading.visits if one.noise_dbm is not None]
        title, under = "Noise", "dBm, mean of each visit"
        if not rows:
            frame = frame_of(self.x, self.ticks, ())
            return Chart(
                key="noise", title=title, under=under, frame=frame, empty="No noise was logged."
            )
        y = axis_around([*(dbm for _, dbm in rows), rows[0][1] - 2, rows[0][1] + 2], HEIGHT, 0)
        return Chart(
            key="noise",
            title=title,
            under=under,
            frame=frame_of(self.x, self.ticks, y.ticks(y.round_values(5), _plain)),
            marks=tuple(self._mark(one, self._place(one), y, dbm, None, None) for one, dbm in rows),
        )

    def predicted(self, rows: Sequence[BesideRow]) -> Chart:
        """Return levels predicted, hollow, beside those walked, solid."""
        levels = [row.walked.level_dbm.estimate for row in rows if row.walked.level_dbm]
        y = axis_around([*(row.predicted_dbm for row in rows), *levels], HEIGHT, 0)
        marks = []
        for row in rows:
            limits = row.walked.level_dbm
            if limits is None:
                continue
            place = self._place(row.walked)
            plain = self._mark(row.walked, place, y, row.predicted_dbm, None, None)
            words = (
                f"predicted {level(row.predicted_dbm)}, {decibels(row.off_db)} off: {plain.words}"
            )
            marks.append(replace(plain, hollow=True, frame="", words=words))
            marks.append(self._mark(row.walked, place, y, *_three(limits)))
        return Chart(
            key="predicted",
            title="Predicted and measured",
            under="dBm; hollow what Plan said, solid what was walked",
            frame=frame_of(self.x, self.ticks, y.ticks(y.round_values(6), _plain)),
            marks=tuple(marks),
        )

    def _place(self, visit: VisitReading) -> float:
        """Return where a visit stands: rigs at one stop stand side by side."""
        middle = (len(self.rigs) - 1) / 2
        return self.x.at(visit.distance_m) + APART * (self.rigs.index(visit.rig) - middle)

    def _mark(
        self,
        one: VisitReading,
        x: float,
        y: Axis,
        value: float,
        low: float | None,
        high: float | None,
    ) -> Mark:
        url = reverse("read:visit", args=[self.study.pk, one.ref]) if one.ref else ""
        return Mark(
            x=round(x, 1),
            y=y.at(value),
            low=None if low is None else y.at(low),
            high=None if high is None else y.at(high),
            shape=dot(one.rig),
            frame=self.framing.frame(one),
            hue=hue(one.rig),
            words=_words(one),
            url=url,
            hollow=not one.heard,
        )

    def _signal_mark(self, one: VisitReading, y: Axis) -> Mark | None:
        if one.level_dbm is None:
            return None
        if not one.heard:  # hollow, at the level below which it must lie
            mark = self._mark(one, self._place(one), y, one.level_dbm.high, None, None)
            return replace(mark, arrow=True)
        mark = self._mark(one, self._place(one), y, *_three(one.level_dbm))
        if not one.heard_reads_high or one.heard_level_dbm is None:
            return mark
        return replace(mark, aside=y.at(one.heard_level_dbm))

    def _survivor(self, marks: Sequence[Mark]) -> list[Said]:
        """Return the label of the mark whose heard frames mislead most."""
        found = [(one.y - one.aside, one) for one in marks if one.aside is not None]
        if not found:
            return []
        worst = max(found, key=lambda pair: pair[0])[1]
        late = worst.x > WIDTH - 80  # no room to the right of it
        return [
            Said(
                x=WIDTH if late else worst.x,
                y=(worst.aside or 0) - 7,
                words=HEARD_ALONE,
                anchor="end" if late else "middle",
            )
        ]

    def _curves(self, y: Axis, name: str) -> tuple[Line, ...]:
        found = []
        for curve in self.reading.curves:
            rows = [
                (point.distance_m, *_three(value))
                for point in curve.points
                if (value := getattr(point, name)) is not None
                and self.x.low <= point.distance_m <= self.x.high
            ]
            if not rows:
                continue
            path, band = band_of(self.x, y, rows)
            end = rows[-1]
            found.append(
                Line(
                    hue=hue(curve.rig),
                    path=path,
                    band=band,
                    letter=curve.rig,
                    x=self.x.at(end[0]) + 4,
                    y=y.at(end[1]) + 4,
                )
            )
        return spread_letters(found)


def _three(found: Estimate) -> tuple[float, float, float]:
    return found.estimate, found.low, found.high


def _plain(value: float) -> str:
    return number(value, 0)


def _signed(value: float) -> str:
    return number(value, 0, sign=True)


def _words(visit: VisitReading) -> str:
    link = link_words(visit.direction, visit.receiver)
    parts = [part for part in (link, visit.condition) if part]
    how = f" ({', '.join(parts)})" if parts else ""
    delivered = f"{percent(1 - visit.loss.high)} to {percent(1 - visit.loss.low)} delivered"
    said = f"{visit.rig}{how} at stop {visit.stop}, {distance(visit.distance_m)}: {visit.heard} of {visit.sent} heard, {delivered}"
    if visit.level_dbm:
        limits = f"{level(visit.level_dbm.low)} to {level(visit.level_dbm.high)}"
        said += f"; level {level(visit.level_dbm.estimate)} ({limits})"
    if visit.heard_level_dbm is not None:
        said += f", heard ones alone {level(visit.heard_level_dbm)}"
    return said


def _threshold_lines(reading: Reading, y: Axis) -> Iterator[Across]:
    """Yield a line across for thresholds close together; the exact ones stand in tables."""
    known = [(one.threshold_dbm.estimate, one.rig) for one in reading.rigs if one.threshold_dbm]
    known.sort(reverse=True)
    for _, rows in groupby(known, key=_Grouping(SAME_LINE_DB)):
        group = list(rows)
        mean = float(np.mean([dbm for dbm, _ in group]))
        rigs = listed([rig for _, rig in group])
        yield Across(y=y.at(mean), words=f"{rigs}: half of frames lost, {level(mean)}")


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
    beside = " beside walls" if reading.site.wall_factor else ""
    return f"slope {number(10 * exponent.estimate)} dB per ×10{beside}{places}"
