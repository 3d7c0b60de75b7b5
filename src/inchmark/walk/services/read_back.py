"""Keeping what boards answered when they were told something: settings read back, as they came."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from django.db import transaction

from inchmark.walk.models import ReadBack, Walk
from inchmark.walk.services.receive import RefusedError

MOST_READ_BACKS = 500


@transaction.atomic
def keep_read_back(
    walk: Walk, *, source: str, at: datetime, asked: str, answered: str, by: Any
) -> ReadBack:
    """Keep one; the same once more adds nothing.

    Raises
    ------
    RefusedError
        The walk has too many, or the time is none.
    """
    try:
        moment = at.astimezone(UTC)  # PostgreSQL takes no offset of 16 hours and more
    except OverflowError:
        raise RefusedError(f"{at} is no time a clock could show. Send ISO 8601.") from None
    if walk.read_backs.count() >= MOST_READ_BACKS:
        raise RefusedError(
            f"This walk has {MOST_READ_BACKS} read-backs already. Begin a new walk for more."
        )
    kept, _ = ReadBack.objects.get_or_create(
        walk=walk,
        source=_shown(source),
        at=moment,
        defaults={"asked": _shown(asked)[:400], "answered": _shown(answered)[:4000], "by": by},
    )
    return kept


def _shown(text: str) -> str:
    """Return text without what no database or page can hold."""
    return "".join(c for c in text if c.isprintable() or c == "\n")
