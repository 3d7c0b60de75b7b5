"""Where a phone was: kept as lines of a source like any other's, to become a track."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from inchmark.core.gathering.way import FIX_SD_M
from inchmark.walk.models import FrameFile, Walk
from inchmark.walk.services.growing import append_lines

SOURCE = "phone"
# browsers give a radius that holds 95 % of positions (W3C Geolocation): 2.45 standard deviations
DEVIATIONS_OF_RADIUS = 2.45


def keep_positions(
    walk: Walk, *, start: str, first: int, positions: Sequence[dict[str, Any]], by: Any
) -> FrameFile:
    """Append positions that are not here yet.

    Raises
    ------
    GapError
        Positions before these are missing.
    RefusedError
        The log is over the limit, or its lines were let go.
    """
    return append_lines(
        walk,
        source=f"{SOURCE}, {by}"[:60],
        start=start,
        first=first,
        lines=[_line(one) for one in positions],
        constants={},
        by=by,
    )


def _line(one: dict[str, Any]) -> str:
    hdop = max(one["accuracy_m"] / DEVIATIONS_OF_RADIUS / FIX_SD_M, 0.1)
    row = {
        "time": one["at"].isoformat(), "lat": one["lat"], "lon": one["lon"],
        "hdop": round(hdop, 2), "accuracy_m": one["accuracy_m"],
    }  # fmt: skip
    return json.dumps(row)
