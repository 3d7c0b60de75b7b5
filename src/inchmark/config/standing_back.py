"""What workers ask of the database stands back for what pages ask, as the workers themselves do.

PostgreSQL answers each connection in a process of its own, which knows nothing of how its asker was
started: beside a long import a page would share the cores evenly with `COPY`.

A kernel that groups processes by their session weighs the groups first and looks at a process's own
priority only within its group. PostgreSQL gives every connection a session, so there the group has to
stand back as well (sched(7), "The autogroup feature").
"""

from __future__ import annotations

import os
import time
from pathlib import Path
from typing import Any

from django.db.backends.base.base import BaseDatabaseWrapper
from django.db.backends.signals import connection_created

BEHIND = 19  # as nice; a seventieth of the share of a process at 0, where both want a core
GROUP_TRIES, GROUP_PAUSE_S = 5, 0.12


def stand_back(sender: object, connection: BaseDatabaseWrapper, **more: Any) -> None:
    """Lower the priority of the server's process of a connection, where it runs on this machine.

    Nothing is done where it may not be (another user's) or is not PostgreSQL's (the port leads to
    another machine): slower pages are then all that comes of it.
    """
    known = getattr(connection, "connection", None)
    if known is None or connection.vendor != "postgresql":
        return
    pid = known.info.backend_pid
    try:
        if Path(f"/proc/{pid}/comm").read_text().strip() == "postgres":
            os.setpriority(os.PRIO_PROCESS, pid, BEHIND)
            _group_stands_back(pid)
    except OSError:
        return


def _group_stands_back(pid: int) -> None:
    """Lower the weight of a process's session; the kernel takes one such change in 0.1 s."""
    group = Path(f"/proc/{pid}/autogroup")
    for _ in range(GROUP_TRIES if group.exists() else 0):
        try:
            group.write_text(str(BEHIND))
        except BlockingIOError:
            time.sleep(GROUP_PAUSE_S)
        else:
            return


def workers_stand_back() -> None:
    """Have every connection of this process stand back."""
    connection_created.connect(stand_back, dispatch_uid="inchmark.stand-back")
