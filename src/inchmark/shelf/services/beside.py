"""Gathering candidates to stand side by side: rigs or antennas with their newest sweeps and traces."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from inchmark.pages.rig_signs import hue
from inchmark.shelf.adapters.rigs import usual_band, usual_frequency_hz
from inchmark.shelf.adapters.walked import walked_rigs
from inchmark.shelf.drawings.sweeps import Drawn, SweepChart, sweep_chart
from inchmark.shelf.figures.beside import Beside, Value, beside
from inchmark.shelf.figures.candidates import (
    ANTENNA_COLUMNS,
    RIG_COLUMNS,
    antenna_candidates,
    battery_life,
    rig_candidates,
)
from inchmark.shelf.models import CurrentTrace, Rig, Sweep
from inchmark.studies.models import Study

USUAL_EXPONENT = 3.0
ANTENNA_LABELS = "ABCDEF"


@dataclass(frozen=True, slots=True, kw_only=True)
class Gathered:
    """The table, the chart of the sweeps there are, and the frequency it is worked out at [Hz]."""

    table: Beside
    chart: SweepChart | None
    frequency_hz: float | None


def of_rigs(study: Study, asked: Mapping[str, Any]) -> Gathered | None:
    """Return the rigs asked for side by side; None where there are none."""
    rigs: Sequence[Rig] = asked["one"]
    if not rigs:
        return None
    for rig in rigs:
        rig.study = study  # known already
    walked = walked_rigs(study)
    exponent, words = _exponent(asked, walked.exponent, walked.words)
    candidates = rig_candidates(rigs, _newest_traces(study, rigs), walked)
    chosen = next((one for one in candidates if one.item == asked.get("base")), candidates[0])
    table = beside(candidates, RIG_COLUMNS, chosen, strength="path", exponent=exponent, words=words)
    sweeps = _of_rigs(study, rigs)
    drawn = [Drawn(rig.letter, hue(rig.letter), sweeps[rig.pk]) for rig in rigs if rig.pk in sweeps]
    marked = sorted({rig.frequency_hz for rig in rigs})
    return Gathered(table=table, chart=_chart(study, drawn, marked), frequency_hz=None)


def of_antennas(study: Study, asked: Mapping[str, Any]) -> Gathered | None:
    """Return the antennas asked for side by side; None where there are none."""
    antennas = asked["one"]
    if not antennas:
        return None
    walked = walked_rigs(study)
    exponent, words = _exponent(asked, walked.exponent, walked.words)
    band = usual_band(study)
    frequency = asked.get("at") or usual_frequency_hz(study) or (band.low_hz + band.high_hz) / 2
    sweeps = _newest_sweeps(study)
    candidates = antenna_candidates(antennas, sweeps, frequency)
    chosen = next((one for one in candidates if one.item == asked.get("base")), candidates[0])
    table = beside(
        candidates, ANTENNA_COLUMNS, chosen, strength="net", exponent=exponent, words=words
    )
    drawn = [
        Drawn(f"{i}", hue(ANTENNA_LABELS[(i - 1) % len(ANTENNA_LABELS)]), sweeps[one.pk])
        for i, one in enumerate(antennas, start=1)
        if one.pk in sweeps
    ]
    return Gathered(table=table, chart=_chart(study, drawn, [frequency]), frequency_hz=frequency)


def lives_of(study: Study, rigs: Sequence[Rig]) -> dict[int, Value]:
    """Return each rig's battery life [years] by its number, with its source in a word."""
    for rig in rigs:
        rig.study = study
    traces = _newest_traces(study, rigs)
    found = {rig.pk: battery_life(rig, traces.get(rig.pk)) for rig in rigs}
    return {
        pk: Value(one.value, one.source.replace(";", ",").split(",")[0])
        for pk, one in found.items()
    }


def _exponent(asked: Mapping[str, Any], walked: float | None, words: str) -> tuple[float, str]:
    if asked.get("exponent"):
        return float(asked["exponent"]), "as typed"
    return (walked, words) if walked else (USUAL_EXPONENT, "common practice over ground")


def _newest_traces(study: Study, rigs: Sequence[Rig]) -> dict[int, CurrentTrace]:
    """Return the newest trace of each rig, without its samples."""
    known = {rig.pk: rig for rig in rigs}
    found = {}
    for trace in study.current_traces.filter(rig__in=known).defer("data"):
        trace.rig = known[trace.rig_id]
        found[trace.rig_id] = trace
    return found


def _newest_sweeps(study: Study) -> dict[int, Sweep]:
    """Return the newest sweep of each antenna on the shelf; one in another state than free goes after."""
    rows = study.sweeps.filter(part__isnull=False).defer("data").order_by("swept_on", "pk")
    found: dict[int, Sweep] = {}
    for sweep in [*(s for s in rows if s.state not in ("", "free")), *rows]:
        if sweep.state in ("", "free") or sweep.part_id not in found:
            found[sweep.part_id] = sweep
    return found


def _of_rigs(study: Study, rigs: Sequence[Rig]) -> dict[int, Sweep]:
    """Return a sweep for each rig: the one it names, else the newest of its antenna."""
    named = {one.pk: one for one in study.sweeps.filter(rigs__in=rigs).defer("data").distinct()}
    newest = _newest_sweeps(study)
    found = {
        rig.pk: named.get(rig.sweep_id or 0) or newest.get(rig.antenna_part_id or 0) for rig in rigs
    }
    return {pk: sweep for pk, sweep in found.items() if sweep is not None}


def _chart(study: Study, drawn: Sequence[Drawn], marked: Sequence[float]) -> SweepChart | None:
    if not drawn:
        return None
    band = usual_band(study)
    return sweep_chart(drawn, (band.low_hz, band.high_hz), marked)
