"""Frames of a visit as arrays: packed once for each log, so that a further log costs by its own frames.

What a log gave is read from the table once, when its visits are first summed up, and kept packed
beside the visit. Reading the log anew clears that (`FrameFile.objects.clear`).
"""

from __future__ import annotations

import zlib
from collections.abc import Iterator

import numpy as np

from inchmark.core.reception.visit import VisitFrames
from inchmark.walk.models import Frame, Visit, VisitColumns

# in the order in which the query gives them; counters rise by one, so their steps pack to nothing
_COLUMNS = (
    ("seq", ">i8"), ("heard", "?"), ("rssi_dbm", ">f8"), ("snr_db", ">f8"), ("noise_dbm", ">f8"),
    ("time_s", ">f8"), ("passes", ">i8"), ("relayed", "?"),
    ("lat_deg", ">f8"), ("lon_deg", ">f8"),
)  # fmt: skip
_ROW_BYTES = sum(np.dtype(kind).itemsize for _, kind in _COLUMNS)
_FILE_STEP = 65_536  # passes of a log are fewer


def frames_of(visit: Visit) -> VisitFrames | None:
    """Return the logged lines of a visit as arrays, None if there are none."""
    files = Frame.objects.files_of(visit.pk)
    if not files:
        return None
    kept = dict(VisitColumns.objects.filter(visit=visit).values_list("file_id", "data"))
    of_logs = []
    for file_id in files:
        packed = bytes(kept[file_id]) if file_id in kept else _pack(visit.pk, file_id)
        of_logs.append(dict(_columns(zlib.decompress(packed), file_id)))
    return VisitFrames(
        **{name: np.concatenate([one[name] for one in of_logs]) for name, _ in _COLUMNS}
    )


def _pack(visit_id: int, file_id: int) -> bytes:
    """Read what a log gave a visit, keep it packed, return it."""
    seq, *others = Frame.objects.packed(visit_id, file_id)
    steps = np.diff(np.frombuffer(seq, dtype=">i8"), prepend=0).astype(">i8")
    data = zlib.compress(b"".join([steps.tobytes(), *others]), 1)
    VisitColumns.objects.update_or_create(
        visit_id=visit_id, file_id=file_id, defaults={"data": data}
    )
    return data


def _columns(data: bytes, file_id: int) -> Iterator[tuple[str, np.ndarray]]:
    """Yield the columns of packed frames by name; passes are told apart by log."""
    start, frames = 0, len(data) // _ROW_BYTES
    for name, kind in _COLUMNS:
        raw = np.frombuffer(data, dtype=kind, count=frames, offset=start)
        start += raw.nbytes
        column = raw.astype(raw.dtype.newbyteorder("="))
        if name == "seq":
            column = np.cumsum(column)
        elif name == "passes":
            column = column + file_id * _FILE_STEP
        yield name, column
