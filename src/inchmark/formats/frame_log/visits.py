"""The frames of a log by visit, each visit summed up."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from itertools import groupby
from pathlib import Path

import numpy as np

from inchmark.core.reading.measured import MeasuredVisit
from inchmark.core.reception.passes import PassCounter
from inchmark.core.reception.visit import (
    Counting,
    VisitFrames,
    VisitKey,
    rssi_holds_noise,
    summarise_visit,
)
from inchmark.formats.frame_log.lines import BadLine
from inchmark.formats.frame_log.reader import read_frame_log
from inchmark.formats.frame_log.rows import FrameBlock

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
    """Return the visits with a known distance, the stops without one, rigs whose RSSI holds noise."""
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
