"""Figures in the text format of Prometheus, over all web processes of a machine."""

from __future__ import annotations

import os
from collections.abc import Iterator

from django.db import DatabaseError, connection
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, generate_latest, multiprocess
from prometheus_client.core import CounterMetricFamily, GaugeMetricFamily, Metric
from psycopg_pool import PoolTimeout

from inchmark.pages.meters import REGISTRY
from inchmark.upkeep.services.health import queues

_JOBS = "SELECT queue_name, status::text, count(*) FROM procrastinate_jobs GROUP BY 1, 2"


def exposition() -> tuple[bytes, str]:
    """Return the figures and their content type."""
    registry = CollectorRegistry()
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        multiprocess.MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
    else:
        registry = REGISTRY
    return generate_latest(registry) + generate_latest(_once(_Database())), CONTENT_TYPE_LATEST


def _once(collector: _Database) -> CollectorRegistry:
    registry = CollectorRegistry()
    registry.register(collector)
    return registry


class _Database:
    """What the database knows of jobs and of our connections, asked when a monitor asks."""

    def collect(self) -> Iterator[Metric]:
        """Yield the figures; only that the database is away, if it is."""
        up = GaugeMetricFamily("inchmark_database_up", "1 if the database answers")
        try:
            found = list(self._asked())
            up.add_metric([], 1)
        except (DatabaseError, PoolTimeout):
            found = []
            up.add_metric([], 0)
        yield up
        yield from found

    def _asked(self) -> Iterator[Metric]:
        depth = GaugeMetricFamily("inchmark_queue_depth", "jobs that wait", labels=["queue"])
        age = GaugeMetricFamily(
            "inchmark_queue_age_seconds", "how long the oldest has waited", labels=["queue"]
        )
        for one in queues():
            depth.add_metric([one.name], one.depth)
            age.add_metric([one.name], one.age_s)
        yield depth
        yield age
        jobs = GaugeMetricFamily(
            "inchmark_jobs", "jobs on record, by state", labels=["queue", "state"]
        )
        with connection.cursor() as cursor:
            cursor.execute(_JOBS)
            for queue, state, count in cursor.fetchall():
                jobs.add_metric([queue, state], count)
        yield jobs
        pool = getattr(connection, "pool", None)
        if pool is not None:
            stats = pool.get_stats()
            held = GaugeMetricFamily("inchmark_pool_connections", "connections of this process")
            held.add_metric([], stats.get("pool_size", 0))
            yield held
            waited = CounterMetricFamily(
                "inchmark_pool_waits", "requests that waited for a connection of this process"
            )
            waited.add_metric([], stats.get("requests_waited", 0))
            yield waited
