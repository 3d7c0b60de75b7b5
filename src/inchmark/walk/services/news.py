"""What has just happened on a walk, told to every web process: whoever watches is shown it at once."""

from __future__ import annotations

import json

from django.db import connection

CHANNEL = "inchmark_walk"
BEGIN, JOIN = "begin", "join"  # of this process alone: all is read anew, a page wants all of it
LINES, PLACE, MARK, PRESENCE, READING = "lines", "place", "mark", "presence", "reading"


def tell(walk_id: int, kind: str, **more: int | str | float) -> None:
    """Tell those who listen, once the transaction is kept; nothing is told of one that is not."""
    words = json.dumps({"walk": walk_id, "kind": kind, **more})
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, words])
