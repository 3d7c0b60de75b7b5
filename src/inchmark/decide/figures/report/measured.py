"""Sections on what was measured: ranges, differences, stops, places, predictions beside them."""

from __future__ import annotations

from collections.abc import Sequence

from inchmark.core.interval import Estimate
from inchmark.core.reading.expected import Served, served_words
from inchmark.core.reading.result import Reading, RigReading, VisitReading
from inchmark.core.wording import distance, number, percent
from inchmark.decide.figures.report.document import Section, Table
from inchmark.read.figures.beside import Beside

NOTHING = "–"


def with_limits(found: Estimate | None, digits: int = 1) -> str:
    """Return a figure with its 95 % limits."""
    if found is None:
        return NOTHING
    low, high = number(found.low, digits), number(found.high, digits)
    return f"{number(found.estimate, digits)} ({low} to {high})"


def metres_limits(found: Estimate | None) -> str:
    """Return a distance with its 95 % limits."""
    if found is None:
        return NOTHING
    return f"{distance(found.estimate)} ({distance(found.low)} to {distance(found.high)})"


def ranges_section(reading: Reading) -> Section:
    """Return each rig's range under the three rules, with how many frames and stops tell it."""
    stops = {one.rig: set[str]() for one in reading.rigs}
    for visit in reading.visits:
        stops.setdefault(visit.rig, set()).add(visit.stop)
    rows = tuple(_range_row(one, len(stops[one.rig])) for one in reading.rigs)
    table = Table(
        caption=f"Range of each rig; {reading.rules.words}; limits of 95 %",
        heads=(
            "Rig", "frames sent (n)", "heard", "stops (n)", "range under the loss rule",
            "range in hand", "last heard", "half lost at, dBm",
        ),
        rows=rows, numbers=frozenset({1, 2, 3}),
    )  # fmt: skip
    more = [
        f"{one.rig}: {words}"
        for one in reading.rigs
        for words in (one.range_words, one.least_words)
        if words
    ]
    return Section(
        key="ranges", title="How far each rig reaches", words=tuple(more), tables=(table,)
    )


def _range_row(one: RigReading, stops: int) -> tuple[str, ...]:
    reach = metres_limits(one.loss_range_m) + (", extrapolated" if one.extrapolated else "")
    heard = one.last_heard_m
    return (
        one.rig, f"{one.sent}", f"{one.heard}", f"{stops}", reach,
        metres_limits(one.in_hand_range_m), distance(heard) if heard else NOTHING,
        with_limits(one.threshold_dbm),
    )  # fmt: skip


def differences_section(reading: Reading) -> Section:
    """Return rig against rig."""
    rows = tuple(
        (one.rig, one.against, with_limits(one.margin_db), with_limits(one.signal_db))
        for one in reading.main_differences
    )
    table = Table(
        caption="Rig against rig over the same places; limits of 95 %; above zero the first is better",
        heads=("Rig", "against", "margin, dB", "signal, dB"),
        rows=rows,
    )
    site = reading.site
    words = []
    if site.exponent:
        words.append(f"Path-loss exponent of this site {with_limits(site.exponent, 2)}.")
    if site.wall_factor:
        words.append(
            f"That is beside the walls drawn, which cost {with_limits(site.wall_factor, 2)} times what is said of them."
        )
    if site.shadowing_db:
        words.append(f"Places of one distance spread by {with_limits(site.shadowing_db)} dB.")
    return Section(
        key="differences", title="Rig against rig", words=tuple(words),
        tables=(table,) if rows else (), charts=True,
    )  # fmt: skip


def stops_section(reading: Reading, found: Beside) -> Section:
    """Return every visit, with what was predicted for it before the walk."""
    visits = sorted(reading.visits, key=lambda one: (one.distance_m, one.rig))
    predicted = {id(row.walked): (row.predicted_dbm, row.off_db) for row in found.rows}
    table = Table(
        caption="Every visit; limits of 95 %; levels with the lost frames counted, beside the level predicted",
        heads=(
            "Stop", "away", "Rig", "sent (n)", "heard", "lost, %", "worth (n)",
            "level, dBm", "in hand, dB", "noise, dBm", "predicted, dBm; off, dB",
        ),
        rows=tuple(_visit_row(one, predicted.get(id(one))) for one in visits),
        numbers=frozenset({3, 4, 6}),
    )  # fmt: skip
    words = [
        "“Worth” is how many independent frames a visit's frames are worth, losses coming in runs."
    ]
    if found.plan:
        words.append(f"Predicted and measured: {found.plan.sentence}")
    elif not found.rows:
        words.append("Nothing was predicted for the stops that were walked.")
    return Section(key="stops", title="Stop by stop", words=tuple(words), tables=(table,))


def _visit_row(one: VisitReading, predicted: tuple[float, float] | None) -> tuple[str, ...]:
    loss = one.loss
    lost = f"{percent(loss.estimate)} ({percent(loss.low)} to {percent(loss.high)})"
    noise = number(one.noise_dbm, 1) if one.noise_dbm is not None else NOTHING
    name = one.stop + (f", {one.condition}" if one.condition else "")
    before = NOTHING
    if predicted:
        before = f"{number(predicted[0], 1)}; {number(predicted[1], 1, sign=True)}"
    return (
        name, distance(one.distance_m), one.rig, f"{one.sent}", f"{one.heard}",
        lost.replace(" %", ""), number(one.worth_frames, 0), with_limits(one.level_dbm),
        with_limits(one.in_hand), noise, before,
    )  # fmt: skip


def places_section(served: Sequence[Served]) -> Section:
    """Return the needed places by each rig."""
    known = [one for one in served if one.count]
    if not known:
        return Section(
            key="places", title="Needed places",
            words=("The walk cannot say which places are served.",),
        )  # fmt: skip
    rows = []
    for i, place in enumerate(known[0].places):
        cells = [place.place, distance(place.distance_m)]
        for one in known:
            found = one.places[i]
            chance = percent(found.meets.estimate) if found.meets else NOTHING
            cells += [chance, with_limits(found.in_hand_db)]
        outside = ", ".join(place.extrapolated)
        rows.append((*cells, outside or (f"stop {place.measured_at}" if place.measured_at else "")))
    heads = ["Place", "away"]
    for one in known:
        heads += [f"{one.rig}: rule met", f"{one.rig}: in hand, dB"]
    table = Table(
        caption="How likely the rule is met at each place, and what is in hand there; limits of 95 %",
        heads=(*heads, "known from"),
        rows=tuple(rows),
    )
    return Section(
        key="places", title="Needed places",
        words=tuple(served_words(one) for one in known), tables=(table,),
    )  # fmt: skip
