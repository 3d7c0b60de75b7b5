"""The whole reading from files: frames and stops in, the reading as plain data out."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import groupby
from pathlib import Path
from typing import Any

import numpy as np

from inchmark.core.geodesy import Place, geodesic
from inchmark.core.link_model.data import RigPrior
from inchmark.core.reading.measured import MeasuredVisit, RigFacts, StopFacts
from inchmark.core.reading.notes import Note, notes_of
from inchmark.core.reading.reading import as_dict, read_visits
from inchmark.core.reading.rules import RangeRules
from inchmark.core.reception.passes import PassCounter
from inchmark.core.reception.visit import (
    Counting,
    VisitFrames,
    VisitKey,
    rssi_holds_noise,
    summarise_visit,
)
from inchmark.formats.errors import UnreadableFileError
from inchmark.formats.frame_log.lines import BadLine
from inchmark.formats.frame_log.reader import read_frame_log
from inchmark.formats.frame_log.rows import FrameBlock
from inchmark.formats.stops import StopRow, read_stops

READ_BYTES = 1 << 20
_FIGURES = ("rssi_dbm", "snr_db", "noise_dbm")


@dataclass(slots=True)
class LoadedFrames:
    """Frames gathered by visit, in logged order, and the lines that were refused."""

    visits: dict[VisitKey, list[FrameBlock]] = field(default_factory=dict)
    bad: list[BadLine] = field(default_factory=list)


def file_blocks(path: Path) -> Iterator[bytes]:
    """Yield a file's bytes in pieces."""
    with path.open("rb") as file:
        while block := file.read(READ_BYTES):
            yield block


def load_frames(blocks: Iterable[bytes]) -> LoadedFrames:
    """Return the frames of a log by visit."""
    loaded, counter = LoadedFrames(), PassCounter()
    for piece in read_frame_log(blocks):
        loaded.bad.extend(piece.bad)
        for block in piece.blocks:
            visits = visits_in(block)
            block.number["pass"] = counter.number(visits, len(block)).astype(np.float64)
            for key, rows in visits.items():
                loaded.visits.setdefault(key, []).append(_take(block, rows))
    return loaded


def visits_in(block: FrameBlock) -> dict[VisitKey, np.ndarray]:
    """Return the row numbers of each visit in a block, in order."""
    size = len(block)
    columns = [
        block.text.get(name, [""] * size)
        for name in ("rig", "stop", "condition", "direction", "receiver")
    ]
    codes: dict[tuple[str, ...], int] = {}
    of_row = np.fromiter(
        (codes.setdefault(key, len(codes)) for key in zip(*columns, strict=True)),
        dtype=np.int64,
        count=size,
    )
    return {VisitKey(*key): np.flatnonzero(of_row == code) for key, code in codes.items()}


def _take(block: FrameBlock, rows: np.ndarray) -> FrameBlock:
    return FrameBlock(
        line=block.line[rows],
        seq=block.seq[rows],
        heard=block.heard[rows],
        text={},
        number={name: values[rows] for name, values in block.number.items()},
        time_s=block.time_s[rows],
    )


def joined(blocks: Sequence[FrameBlock]) -> VisitFrames:
    """Return the frames of a visit that came in several blocks as one."""

    def column(name: str) -> np.ndarray:
        return np.concatenate([b.number.get(name, np.full(len(b), np.nan)) for b in blocks])

    return VisitFrames(
        seq=np.concatenate([b.seq for b in blocks]),
        heard=np.concatenate([b.heard for b in blocks]),
        time_s=np.concatenate([b.time_s for b in blocks]),
        passes=column("pass").astype(np.int64),
        **{name: column(name) for name in _FIGURES},
    )


def measured_visits(
    loaded: LoadedFrames, distances: dict[str, float], *, counting: Counting | None = None
) -> tuple[list[MeasuredVisit], list[str], list[str]]:
    """Return the visits with a known distance, the stops without one.

    And rigs whose RSSI holds noise.
    """
    visits, unknown = [], sorted({k.stop for k in loaded.visits} - set(distances))
    noisy = []
    ordered = sorted(loaded.visits, key=lambda key: key.rig)
    for rig, keys in groupby(ordered, key=lambda key: key.rig):
        frames = {key: joined(loaded.visits[key]) for key in keys if key.stop in distances}
        if not frames:
            continue
        levels = [np.concatenate([getattr(f, name) for f in frames.values()]) for name in _FIGURES]
        includes = rssi_holds_noise(*levels)
        if includes:
            noisy.append(rig)
        for key, one in frames.items():
            summary = summarise_visit(one, rssi_includes_noise=includes, counting=counting)
            visits.append(MeasuredVisit(key=key, distance_m=distances[key.stop], summary=summary))
    return visits, unknown, noisy


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


def read_files(
    frames: Path,
    stops: Path,
    *,
    sensitivities: dict[str, float] | None = None,
    module_types: dict[str, str] | None = None,
    rules: RangeRules | None = None,
    counting: Counting | None = None,
    reference_noise_dbm: float | None = None,
) -> dict[str, Any]:
    """Return the reading of two files as plain data.

    Raises
    ------
    UnreadableFileError
        One of the files cannot be read at all, or no frame fits a stop.
    """
    stop_rows, bad_stops = read_stops(stops.read_bytes())
    loaded = load_frames(file_blocks(frames))
    distances = stop_distances(stop_rows)
    visits, unknown, noisy = measured_visits(loaded, distances, counting=counting)
    if not visits:
        raise UnreadableFileError(_why_empty(loaded, unknown))
    rigs = {v.key.rig for v in visits}
    facts = {
        rig: RigFacts(
            name=rig,
            prior=RigPrior(
                module_type=(module_types or {}).get(rig, ""),
                sensitivity_dbm=(sensitivities or {}).get(rig),
            ),
        )
        for rig in rigs
    }
    stop_facts = {
        row.stop: StopFacts(name=row.name, method=row.method, plus_minus_m=row.plus_minus_m)
        for row in stop_rows
    }
    reading = read_visits(
        visits, facts, stop_facts, rules=rules, reference_noise_dbm=reference_noise_dbm
    )
    result = as_dict(reading)
    notes = [*_file_notes(loaded, bad_stops, unknown, noisy), *notes_of(reading)]
    result["notes"] = [note_as_dict(note) for note in notes]
    return result


def note_as_dict(note: Note) -> dict[str, str]:
    """Return a note as plain data."""
    return {
        "code": note.code,
        "title": note.title,
        "text": note.text,
        "kind": note.kind,
        "rig": note.rig,
        "stop": note.stop,
    }


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
            text=f"Frames were logged at stop {stop}, but the stops file does not say how far "
            f"it is.",
        )
    for rig in noisy:
        yield Note(
            code="noise_in_rssi",
            kind="fact",
            rig=rig,
            title=f"{rig}: readings hold signal plus noise",
            text="Near the noise its RSSI stops falling while S/N goes on. The noise was taken "
            "off.",
        )
