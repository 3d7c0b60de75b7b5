"""The table of limits: rows of a JSON file, each with its document and where it is known from."""

from __future__ import annotations

import json
from functools import cache
from importlib import resources

from inchmark.core.limits import Limit


@cache
def limits() -> tuple[Limit, ...]:
    """Return the table that ships with the app."""
    text = resources.files("inchmark.formats").joinpath("limits.json").read_text("utf-8")
    found = json.loads(text)
    return tuple(
        Limit(**{key: value for key, value in row.items() if key != "note"})
        for row in found["limits"]
    )


def regions() -> list[str]:
    """Return the regions the table has rows for, as the table has them in order."""
    return list(dict.fromkeys(row.region for row in limits()))
