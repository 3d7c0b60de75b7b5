"""Whether pages can be served: the database answers, jobs are taken up, there is room on the disk."""

from __future__ import annotations

import shutil
from dataclasses import dataclass
from typing import Any, NamedTuple

from django.conf import settings
from django.db import DatabaseError, connection
from psycopg_pool import PoolTimeout

OLD_JOB_S = 120.0  # a job that waits longer has no worker, or too few
LITTLE_BYTES = 512 * 2**20
_WAITING = """
    SELECT queue_name, count(*), coalesce(extract(epoch FROM now() - min(since)), 0)::float8
    FROM (
        SELECT j.queue_name, coalesce(j.scheduled_at,
            (SELECT max(e.at) FROM procrastinate_events e WHERE e.job_id = j.id)) AS since
        FROM procrastinate_jobs j
        WHERE j.status = 'todo' AND coalesce(j.scheduled_at, now()) <= now()
    ) AS waiting GROUP BY queue_name
"""


class Queue(NamedTuple):
    """A queue: jobs that wait, and how long the oldest has waited [s]."""

    name: str
    depth: int
    age_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Health:
    """What was found; `problems` are sentences, empty when all is well."""

    database: bool
    queues: tuple[Queue, ...]
    free_bytes: int
    problems: tuple[str, ...]

    @property
    def ready(self) -> bool:
        """Tell whether pages can be served; jobs that wait long do not hinder that."""
        return self.database and self.free_bytes >= LITTLE_BYTES

    def as_json(self) -> dict[str, Any]:
        """Return it as a monitor takes it."""
        return {
            "ready": self.ready,
            "database": self.database,
            "free_bytes": self.free_bytes,
            "queues": {
                one.name: {"depth": one.depth, "age_s": round(one.age_s, 1)} for one in self.queues
            },
            "problems": list(self.problems),
        }


def look() -> Health:
    """Return the state of the service."""
    try:
        found, database = queues(), True
    except (DatabaseError, PoolTimeout):
        found, database = (), False
    free = shutil.disk_usage(settings.VAR).free
    problems = [] if database else ["The database does not answer."]
    if free < LITTLE_BYTES:
        problems.append(f"{free // 2**20} MB are left on the disk of {settings.VAR}.")
    problems += [
        f"A job of “{one.name}” has waited {one.age_s:.0f} s: is its worker running?"
        for one in found
        if one.age_s > OLD_JOB_S
    ]
    return Health(database=database, queues=found, free_bytes=free, problems=tuple(problems))


def queues() -> tuple[Queue, ...]:
    """Return the queues in which jobs wait."""
    with connection.cursor() as cursor:
        cursor.execute(_WAITING)
        return tuple(Queue(name=n, depth=d, age_s=max(a, 0.0)) for n, d, a in cursor.fetchall())
