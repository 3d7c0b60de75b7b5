"""Presses of a thumb kept as lines of a source: our own frame log, a JSON object a press.

A phone is a source like a board: its presses are kept as they came, numbered, and sending them again
adds nothing. What they give is read from these lines like any other log's.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from inchmark.core.reading.measured import REPLIES
from inchmark.walk.models import FrameFile, Walk
from inchmark.walk.services.growing import append_lines

SOURCE = "by thumb"


def keep_presses(
    walk: Walk, *, start: str, first: int, presses: Sequence[dict[str, Any]], by: Any
) -> FrameFile:
    """Append presses that are not here yet.

    Raises
    ------
    GapError
        Presses before these are missing.
    RefusedError
        The log is over the limit, or its lines were let go.
    """
    return append_lines(
        walk,
        source=f"{SOURCE}, {by}"[:60],
        start=start,
        first=first,
        lines=[_line(number, one) for number, one in enumerate(presses, first)],
        constants={},
        by=by,
    )


def _line(number: int, one: dict[str, Any]) -> str:
    row = {
        "rig": one["rig"], "stop": one["stop"], "seq": number, "heard": int(one["heard"]),
        "time": one["at"].isoformat(), "condition": one["condition"],
        "receiver": one["receiver"], "direction": REPLIES if one["replies"] else "",
        "bars": one.get("bars"),
    }  # fmt: skip
    return json.dumps({name: value for name, value in row.items() if value not in ("", None)})
