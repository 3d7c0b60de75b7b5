"""Queueing work in the transaction that makes it necessary, once for what it is about."""

from __future__ import annotations

from django.db import connection, transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from inchmark.pages.logs import request_id

_HOLD = """
    SELECT id FROM procrastinate_jobs WHERE queueing_lock = %s AND status = 'todo' FOR UPDATE
"""


@transaction.atomic
def queue_once(
    task: str, queue: str, *, once: str, alone: str | None = None, **arguments: int | str
) -> None:
    """Queue a job unless one of the same `once` waits; jobs of one `alone` run one after another.

    A job that waits already is held until the transaction ends, so that no worker can begin it
    before the change it is to see is there.
    """
    if request_id():
        arguments["request_id"] = request_id()
    asked = app.configure_task(task, queue=queue, lock=alone, queueing_lock=once)
    while not _hold(once):
        try:
            with transaction.atomic():
                asked.defer(**arguments)
        except AlreadyEnqueued:
            continue  # by another transaction that has just ended: hold that one
        return


def _hold(once: str) -> bool:
    with connection.cursor() as cursor:
        cursor.execute(_HOLD, [once])
        return cursor.fetchone() is not None
