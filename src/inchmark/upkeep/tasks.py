"""What is done by the clock: jobs of the dead taken up, readings nobody queued, old jobs away."""

from __future__ import annotations

import logging

from asgiref.sync import sync_to_async
from django.conf import settings
from procrastinate.contrib.django import app
from procrastinate.exceptions import UniqueViolation
from procrastinate.jobs import Status

from inchmark.people.services.rates import forget_old
from inchmark.people.services.sessions import forget_ended
from inchmark.read.services import queue_missed
from inchmark.studies.services.undo import forget_removed
from inchmark.upkeep.services.jobs import MOST_ATTEMPTS, give_up
from inchmark.walk.services.retention import let_old_go

log = logging.getLogger(__name__)
KEPT_JOBS_H = 72


@app.periodic(cron="* * * * * */10")
@app.task(queue="upkeep", queueing_lock="take-up", aliases=["inchmark.walk.tasks.take_up_stalled"])
async def take_up_stalled(timestamp: int) -> None:
    """Take up the jobs of workers that have died; give up what has died too often."""
    manager = app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=settings.STALLED_AFTER_S):
        if job.attempts + 1 >= MOST_ATTEMPTS:
            log.error("job %s (%s) died %s times", job.id, job.task_name, job.attempts + 1)
            await manager.finish_job(job, status=Status.FAILED, delete_job=False)
            await sync_to_async(give_up)(job.task_name, job.task_kwargs)
            continue
        log.warning("job %s (%s) is taken up again", job.id, job.task_name)
        try:
            await manager.retry_job(job)
        except UniqueViolation:  # another for the same thing waits already, and will see all of it
            await manager.finish_job(job, status=Status.ABORTED, delete_job=True)


@app.periodic(cron="* * * * *")
@app.task(queue="upkeep", queueing_lock="missed-readings")
def read_missed(timestamp: int) -> None:
    """Queue readings that are behind their study and that no job will make."""
    found = queue_missed()
    if found:
        log.warning("%s readings were behind and are queued", found)


@app.periodic(cron="23 * * * *")
@app.task(queue="upkeep", queueing_lock="old-logs")
def let_logs_go(timestamp: int) -> None:
    """Let the lines of logs go that their studies no longer keep."""
    gone = let_old_go()
    if gone:
        log.info("the lines of %s logs were let go", gone)


@app.periodic(cron="7 * * * *")
@app.task(queue="upkeep", queueing_lock="purge-jobs")
async def purge_jobs(timestamp: int) -> None:
    """Delete the records of jobs that ended days ago."""
    await app.job_manager.delete_old_jobs(
        nb_hours=KEPT_JOBS_H,
        include_failed=True,
        include_cancelled=True,
        include_aborted=True,
    )
    await sync_to_async(forget_old)()
    await sync_to_async(forget_ended)()
    await sync_to_async(forget_removed)()
