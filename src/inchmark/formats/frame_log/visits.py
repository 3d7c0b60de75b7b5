"""The frames of a log by visit, each visit summed up."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import groupby
from pathlib import Path

import numpy as np

from inchmark.core.reading.measured import MeasuredVisit
from inchmark.core.reception.passes import PassCounter
from inchmark.core.reception.rssi_noise import what_rssi_holds
from inchmark.core.reception.visit import (
    Counting,
    VisitFrames,
    VisitKey,
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


def load_frames(blocks: Iterable[bytes], nodes: Mapping[str, str] | None = None) -> LoadedFrames:
    """Return the frames of a log by visit; `nodes` says what each rig's own node calls itself."""
    loaded, counter = LoadedFrames(), PassCounter()
    for piece in read_frame_log(blocks):
        loaded.bad.extend(piece.bad)
        for block in piece.blocks:
            visits = visits_in(block)
            block.number["relayed"] = relayed_lines(block, nodes or {}).astype(np.float64)
            block.number["pass"] = counter.number(
                visits, len(block), block.number.get("pass")
            ).astype(np.float64)
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


def relayed_lines(block: FrameBlock, nodes: Mapping[str, str]) -> np.ndarray:
    """Tell which lines came through a relay: over hops, or from a source not the rig's own node.

    Parameters
    ----------
    nodes
        By rig, what its own node calls itself; without one only hops tell.
    """
    hops = block.number.get("hops")
    found = np.zeros(len(block), dtype=bool) if hops is None else np.nan_to_num(hops) > 0
    sources, rigs = block.text.get("source"), block.text.get("rig")
    if sources is None or rigs is None or not nodes:
        return found
    for i, (source, rig) in enumerate(zip(sources, rigs, strict=True)):
        own = nodes.get(rig, "")
        if source and own and source != own:
            found[i] = True
    return found


def joined(blocks: Sequence[FrameBlock]) -> VisitFrames:
    """Return the frames of a visit that came in several blocks as one."""

    def column(name: str) -> np.ndarray:
        return np.concatenate([b.number.get(name, np.full(len(b), np.nan)) for b in blocks])

    return VisitFrames(
        seq=np.concatenate([b.seq for b in blocks]),
        heard=np.concatenate([b.heard for b in blocks]),
        time_s=np.concatenate([b.time_s for b in blocks]),
        passes=column("pass").astype(np.int64),
        relayed=np.nan_to_num(column("relayed")) > 0,
        lat_deg=column("lat"),
        lon_deg=column("lon"),
        **{name: column(name) for name in _FIGURES},
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """Visits with a known distance, and what was found out on the way.

    Stops without a distance; rigs whose RSSI holds noise, and those of which it could not be told.
    """

    visits: list[MeasuredVisit]
    unknown: list[str]
    noisy: list[str]
    untold: list[str]


def measured_visits(
    loaded: LoadedFrames,
    distances: Mapping[str, float],
    *,
    counting: Counting | None = None,
    includes_noise: bool | None = None,
) -> Measured:
    """Return the visits of a log; `includes_noise` says what RSSI holds where that is known."""
    found = Measured(
        visits=[],
        unknown=sorted({k.stop for k in loaded.visits} - set(distances)),
        noisy=[],
        untold=[],
    )
    ordered = sorted(loaded.visits, key=lambda key: key.rig)
    for rig, keys in groupby(ordered, key=lambda key: key.rig):
        frames = {key: joined(loaded.visits[key]) for key in keys if key.stop in distances}
        if not frames:
            continue
        holds = includes_noise
        if holds is None:
            holds = _what_rssi_holds(list(frames.values()))
            if holds is None and any(np.isfinite(f.snr_db).any() for f in frames.values()):
                found.untold.append(rig)
        if holds:
            found.noisy.append(rig)
        for key, one in frames.items():
            summary = summarise_visit(one, rssi_includes_noise=bool(holds), counting=counting)
            found.visits.append(
                MeasuredVisit(key=key, distance_m=distances[key.stop], summary=summary)
            )
    return found


def _what_rssi_holds(frames: Sequence[VisitFrames]) -> bool | None:
    rssi, snr, noise = (np.concatenate([getattr(f, name) for f in frames]) for name in _FIGURES)
    labels = np.repeat(np.arange(len(frames)), [len(f.seq) for f in frames])
    return what_rssi_holds(rssi, snr, noise, labels)
