"""The whole reading from two files: frames and stops in, the reading out."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from inchmark.core.geodesy import Place, geodesic
from inchmark.core.link_model.data import RigPrior
from inchmark.core.reading.measured import RigFacts, StopFacts
from inchmark.core.reading.reading import Asked, read_visits
from inchmark.core.reading.result import FACT, Note, Reading
from inchmark.core.reading.rules import RangeRules
from inchmark.core.reception.visit import Counting
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.lines import BadLine
from inchmark.formats.frame_log.visits import (
    LoadedFrames,
    file_blocks,
    load_frames,
    measured_visits,
)
from inchmark.formats.stops import StopRow, read_stops


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """What a user knows beside the two files.

    Sensitivities [dBm] and module types are by rig; `reference_noise_dbm` is the noise at which
    sensitivities hold.
    """

    sensitivities: Mapping[str, float] = field(default_factory=dict)
    module_types: Mapping[str, str] = field(default_factory=dict)
    rules: RangeRules = field(default_factory=RangeRules)
    counting: Counting | None = None
    reference_noise_dbm: float | None = None
    needed_m: float | None = None


def stop_distances(rows: Sequence[StopRow]) -> dict[str, float]:
    """Return distances [m] by stop; a stop with coordinates only is measured from stop "fixed"."""
    fixed = next(
        (row for row in rows if row.stop.lower() in ("fixed", "0") and row.lat is not None), None
    )
    distances = {}
    for row in rows:
        if row.distance_m is not None:
            distances[row.stop] = row.distance_m
        elif fixed is not None and row is not fixed and row.lat is not None and row.lon is not None:
            start = Place(lat_deg=fixed.lat or 0.0, lon_deg=fixed.lon or 0.0)
            distances[row.stop] = geodesic(
                start, Place(lat_deg=row.lat, lon_deg=row.lon)
            ).distance_m
    return distances


def read_files(frames: Path, stops: Path, known: Known | None = None) -> Reading:
    """Return the reading of two files, with notes on what of them could not be read.

    Raises
    ------
    UnreadableFileError
        One of the files cannot be read at all, or no frame fits a stop.
    """
    known = known or Known()
    stop_rows, bad_stops = read_stops(stops.read_bytes())
    loaded = load_frames(file_blocks(frames))
    distances = stop_distances(stop_rows)
    visits, unknown, noisy = measured_visits(loaded, distances, counting=known.counting)
    if not visits:
        raise UnreadableFileError(_why_empty(loaded, unknown))
    facts = {visit.key.rig: _facts(visit.key.rig, known) for visit in visits}
    stop_facts = {
        row.stop: StopFacts(name=row.name, method=row.method, plus_minus_m=row.plus_minus_m)
        for row in stop_rows
    }
    reading = read_visits(
        visits,
        facts,
        stop_facts,
        rules=known.rules,
        reference_noise_dbm=known.reference_noise_dbm,
        asked=Asked(needed_m=known.needed_m),
    )
    about_files = tuple(_file_notes(loaded, bad_stops, unknown, noisy))
    return replace(reading, notes=(*about_files, *reading.notes))


def _facts(rig: str, known: Known) -> RigFacts:
    prior = RigPrior(
        module_type=known.module_types.get(rig, ""), sensitivity_dbm=known.sensitivities.get(rig)
    )
    return RigFacts(name=rig, prior=prior)


def _why_empty(loaded: LoadedFrames, unknown: Sequence[str]) -> str:
    if loaded.bad:
        first = loaded.bad[0]
        return f"No line could be read. Line {first.number}: {first.reason}"
    if unknown:
        names = ", ".join(unknown[:5])
        return f"The stops file has no distance for stop {names}, and no other stop was visited."
    return "The frame log has a header but no frames."


def _file_notes(
    loaded: LoadedFrames, bad_stops: Sequence[BadLine], unknown: Sequence[str], noisy: Sequence[str]
) -> Iterator[Note]:
    if loaded.bad:
        first = loaded.bad[0]
        yield Note(
            code="unread_lines",
            title=f"{len(loaded.bad)} lines could not be read",
            text=f"The first is line {first.number}: {first.reason}",
        )
    for bad in bad_stops:
        yield Note(code="unread_stop", title=f"Stops file, line {bad.number}", text=bad.reason)
    for stop in unknown:
        yield Note(
            code="stop_without_distance",
            stop=stop,
            title=f"Stop {stop} has no distance",
            text=f"Frames were logged at stop {stop}, but the stops file does not say how far it is.",
        )
    for rig in noisy:
        yield Note(
            code="noise_in_rssi",
            kind=FACT,
            rig=rig,
            title=f"{rig}: readings hold signal plus noise",
            text="Near the noise its RSSI stops falling while S/N goes on. The noise was taken off.",
        )
