"""The whole reading from two files: frames and stops in, the reading out."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from inchmark.cli.walls import behind_walls
from inchmark.core.geodesy import Place, geodesic
from inchmark.core.reading.analysis import Walked
from inchmark.core.reading.expected import NeededPlace
from inchmark.core.reading.guidance import Looked
from inchmark.core.reading.measured import REPLIES, MeasuredVisit, RigFacts, StopFacts
from inchmark.core.reading.reading import Asked, read_visits
from inchmark.core.reading.result import FACT, Note, Reading
from inchmark.core.reading.rules import RangeRules
from inchmark.core.reception.visit import Counting
from inchmark.core.wording import listed
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.lines import BadLine
from inchmark.formats.frame_log.visits import (
    LoadedFrames,
    Measured,
    file_blocks,
    load_frames,
    measured_visits,
)
from inchmark.formats.places import read_places
from inchmark.formats.stops import StopRow, read_stops
from inchmark.formats.study_file import StudyFile

FIXED = ("fixed", "0")  # what the fixed end is called in a stops file


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """What a user knows beside the two files.

    Sensitivities [dBm] and module types are by rig; `reference_noise_dbm` is the noise at which
    sensitivities hold. What is said one by one stands over what the study file says.
    """

    study: StudyFile = field(default_factory=StudyFile)
    sensitivities: Mapping[str, float] = field(default_factory=dict)
    module_types: Mapping[str, str] = field(default_factory=dict)
    rules: RangeRules = field(default_factory=RangeRules)
    counting: Counting | None = None
    reference_noise_dbm: float | None = None
    needed_m: float | None = None
    places: Path | None = None  # a GPX or GeoJSON file of places that need a node
    walls: Path | None = None  # a GeoJSON file of walls that paths go through


def stop_distances(rows: Sequence[StopRow], study: StudyFile | None = None) -> dict[str, float]:
    """Return distances [m] by stop; one with coordinates only is measured from the fixed end."""
    spot, fixed = fixed_spot(rows, study or StudyFile()), _fixed_row(rows)
    distances = {}
    for row in rows:
        if row.distance_m is not None:
            distances[row.stop] = row.distance_m
        elif spot is not None and row is not fixed and row.lat is not None and row.lon is not None:
            start, end = (
                Place(lat_deg=lat, lon_deg=lon) for lat, lon in (spot, (row.lat, row.lon))
            )
            distances[row.stop] = geodesic(start, end).distance_m
    return distances


def read_files(frames: Path, stops: Path, known: Known | None = None) -> Reading:
    """Return the reading of two files, with notes on what of them could not be read.

    Raises
    ------
    UnreadableFileError
        One of the files cannot be read at all, or no frame fits a stop.
    """
    known = known or Known()
    study = known.study
    stop_rows, bad_stops = read_stops(stops.read_bytes())
    loaded = load_frames(file_blocks(frames), study.nodes)
    far, start = stop_distances(stop_rows, study), _fixed_row(stop_rows)
    measured = measured_visits(
        loaded,
        far,
        counting=known.counting,
        includes_noise=study.rssi_includes_noise,
    )
    if not measured.visits:
        raise UnreadableFileError(_why_empty(loaded, measured.unknown))
    noise, fixed = known.reference_noise_dbm, fixed_spot(stop_rows, study)
    stop_facts = {
        row.stop: _stop_facts(row, far.get(row.stop)) for row in stop_rows if row is not start
    }
    site = replace(study.site_facts(), needed_m=known.needed_m or study.needed_m)
    places = _needed_places(known.places, fixed) if known.places else ()
    if known.walls:
        seen = {one.key.stop for one in measured.visits}
        walked_to = {name: one for name, one in stop_facts.items() if name in seen}
        site, places = behind_walls(site, places, known.walls, walked_to, fixed)
    reading = read_visits(
        Walked(
            visits=tuple(_as_replies(measured.visits) if study.replies else measured.visits),
            facts=_all_facts(measured.visits, known),
            stops=stop_facts,
            site=site,
            reference_noise_dbm=study.noise_at_sensitivity_dbm if noise is None else noise,
        ),
        rules=known.rules,
        asked=Asked(
            needed_m=known.needed_m or study.needed_m,
            check=True,
            looked=Looked(),
            places=places,
            fixed=fixed if places else None,
        ),
    )
    about_files = tuple(_file_notes(loaded, bad_stops, measured, study))
    return replace(reading, notes=(*about_files, *reading.notes))


def _fixed_row(rows: Sequence[StopRow]) -> StopRow | None:
    return next((row for row in rows if row.stop.lower() in FIXED and row.lat is not None), None)


def fixed_spot(rows: Sequence[StopRow], study: StudyFile) -> tuple[float, float] | None:
    """Return where the fixed end stands: a stop called fixed or 0, the study's own, the first receiver."""
    row = _fixed_row(rows)
    if row is not None and row.lat is not None and row.lon is not None:
        return row.lat, row.lon
    end = study.fixed_end
    if end and end.lat is not None and end.lon is not None:
        return end.lat, end.lon
    return next((one.spot for one in study.site_facts().receivers if one.spot), None)


def _needed_places(file: Path, fixed: tuple[float, float] | None) -> tuple[NeededPlace, ...]:
    if fixed is None:
        raise UnreadableFileError(
            "Nobody says where the fixed end stands, so places have no distance. Give the stops file a "
            "stop called fixed with lat and lon, or the study file's fixed_end or a receiver."
        )
    start, found = Place(lat_deg=fixed[0], lon_deg=fixed[1]), []
    for row in read_places(file.read_bytes(), file.name):
        spot = (row.lat or 0.0, row.lon or 0.0)
        away = geodesic(start, Place(lat_deg=spot[0], lon_deg=spot[1])).distance_m
        if away < 1:
            raise UnreadableFileError(f"Place {row.name or row.stop} lies on the fixed end.")
        found.append(NeededPlace(name=row.name or row.stop, spot=spot, distance_m=away))
    return tuple(found)


def _as_replies(visits: Sequence[MeasuredVisit]) -> list[MeasuredVisit]:
    return [
        v if v.key.direction else replace(v, key=replace(v.key, direction=REPLIES)) for v in visits
    ]


def _all_facts(visits: Sequence[MeasuredVisit], known: Known) -> dict[str, RigFacts]:
    written = known.study.rig_facts()
    found = {}
    for rig in {visit.key.rig for visit in visits}:
        facts = written.get(rig, RigFacts(name=rig))
        prior = facts.prior
        if rig in known.module_types:
            prior = replace(prior, module_type=known.module_types[rig])
        if rig in known.sensitivities:
            prior = replace(prior, sensitivity_dbm=known.sensitivities[rig], conducted=False)
        found[rig] = replace(facts, prior=prior)
    return found


def _stop_facts(row: StopRow, distance_m: float | None) -> StopFacts:
    return StopFacts(
        name=row.name,
        distance_m=distance_m,
        method=row.method,
        plus_minus_m=row.plus_minus_m,
        spot=None if row.lat is None or row.lon is None else (row.lat, row.lon),
    )


def _why_empty(loaded: LoadedFrames, unknown: Sequence[str]) -> str:
    if loaded.bad:
        first = loaded.bad[0]
        return f"No line could be read. Line {first.number}: {first.reason}"
    if unknown:
        names = ", ".join(unknown[:5])
        return f"The stops file has no distance for stop {names}, and no other stop was visited."
    return "The frame log has a header but no frames."


def _file_notes(
    loaded: LoadedFrames, bad_stops: Sequence[BadLine], measured: Measured, study: StudyFile
) -> Iterator[Note]:
    if keys := study.not_counted():
        yield Note(
            code="unknown_keys",
            title="Not everything in the study file counts",
            text=f"Nobody here knows {listed(keys)}; docs/formats.md lists what counts.",
        )
    if loaded.bad:
        first = loaded.bad[0]
        yield Note(
            code="unread_lines",
            title=f"{len(loaded.bad)} lines could not be read",
            text=f"The first is line {first.number}: {first.reason}",
        )
    for bad in bad_stops:
        yield Note(code="unread_stop", title=f"Stops file, line {bad.number}", text=bad.reason)
    for stop in measured.unknown:
        yield Note(
            code="stop_without_distance",
            stop=stop,
            title=f"Stop {stop} has no distance",
            text=f"Frames were logged at stop {stop}, but the stops file does not say how far it is.",
        )
    if measured.noisy:
        yield Note(
            code="noise_in_rssi",
            kind=FACT,
            rig=measured.noisy[0] if len(measured.noisy) == 1 else "",
            title=f"{listed(measured.noisy)}: readings hold signal plus noise",
            text="Near the noise its RSSI stops falling while S/N goes on. The noise was taken off.",
        )
    if measured.untold:
        yield Note(
            code="noise_in_rssi_unknown",
            kind=FACT,
            title=f"{listed(measured.untold)}: what the RSSI holds could not be told",
            text="No reading lies near the noise, so it matters little. It is taken as the signal alone.",
        )
