"""Work in the background: queued with what makes it necessary, never lost, never for ever."""

import asyncio
import json

import pytest
from django.db import connection, connections, transaction
from django.urls import reverse
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from inchmark.plan.models import Design, SiteMap
from inchmark.read import services, tasks
from inchmark.read.models import ReadingFailure
from inchmark.studies.services import touch
from inchmark.upkeep.services.jobs import DIED, MOST_ATTEMPTS, give_up
from inchmark.upkeep.tasks import purge_jobs, read_missed, take_up_stalled
from inchmark.walk.models import FrameFile
from inchmark.walk.services.receive import queue_import
from tests import make


def waiting(task="inchmark.read.tasks.read_study"):
    return list(ProcrastinateJob.objects.filter(task_name=task, status="todo"))


def test_a_change_and_its_job_are_kept_together_or_not_at_all(study):
    ProcrastinateJob.objects.all().delete()

    @transaction.atomic
    def change_and_fail():
        touch(study)
        assert len(waiting()) == 1
        raise RuntimeError

    with pytest.raises(RuntimeError):
        change_and_fail()
    assert waiting() == []


def test_one_reading_waits_for_a_study_however_often_it_changes(study):
    for _ in range(4):
        touch(study)
    assert [job.args for job in waiting()] == [{"study_id": study.pk}]


@pytest.mark.django_db(transaction=True)
def test_a_waiting_job_is_not_begun_before_the_change_it_is_to_see_is_there():
    ProcrastinateJob.objects.all()._raw_delete("default")  # tables of others are not flushed
    study = make.field_study()
    touch(study)
    fetch = "SELECT id FROM procrastinate_fetch_job_v2(ARRAY['read']::varchar[], NULL)"
    other = connections.create_connection("default")
    try:
        with transaction.atomic():
            touch(study)
            with other.cursor() as cursor:
                cursor.execute(fetch)
                assert cursor.fetchone()[0] is None
        with other.cursor() as cursor:
            cursor.execute(fetch)
            assert cursor.fetchone()[0] == waiting_or_doing().pk
    finally:
        other.close()


def waiting_or_doing():
    return ProcrastinateJob.objects.get(queue_name="read", status__in=("todo", "doing"))


def test_logs_of_one_study_are_read_one_after_another(study):
    ProcrastinateJob.objects.all()._raw_delete("default")  # what a transactional test left
    one, two = make.walk(study), make.walk(study)
    for walk in (one, two, make.walk()):
        queue_import(FrameFile.objects.create(walk=walk, name="log", by=make.owner(walk.study)))
    locks = [job.lock for job in waiting("inchmark.walk.tasks.import_file")]
    assert locks[0] == locks[1] != locks[2]


@pytest.mark.django_db(transaction=True)
def test_workers_are_told_when_a_job_that_others_wait_for_has_ended():
    ProcrastinateJob.objects.all()._raw_delete("default")
    walk = make.walk(make.field_study())
    for _ in range(2):
        queue_import(FrameFile.objects.create(walk=walk, name="log", by=make.owner(walk.study)))
    fetch = "SELECT id FROM procrastinate_fetch_job_v2(ARRAY['import']::varchar[], NULL)"
    ear = connections.create_connection("default")
    try:
        with ear.cursor() as listening, connection.cursor() as cursor:
            cursor.execute(fetch)
            first = cursor.fetchone()[0]
            cursor.execute(fetch)
            assert cursor.fetchone()[0] is None  # the other waits for the lock
            listening.execute('LISTEN "procrastinate_queue_v1#import"')
            cursor.execute(
                "SELECT procrastinate_finish_job_v1(%s, 'succeeded'::procrastinate_job_status, false)",
                [first],
            )
            told = next(ear.connection.notifies(timeout=5, stop_after=1))
            assert json.loads(told.payload)["type"] == "job_inserted"
            cursor.execute(fetch)
            assert cursor.fetchone()[0] not in (None, first)
    finally:
        ear.close()


def test_a_reading_that_fails_says_why_and_can_be_tried_again(reader, walked, monkeypatch):
    touch(walked)

    def fail(study_id):
        raise ValueError("a matrix is singular")

    monkeypatch.setattr(tasks, "make_reading", fail)
    with pytest.raises(ValueError, match="singular"):
        tasks.read_study(study_id=walked.pk)
    page = reverse("read:reading", args=[walked.pk])
    html = make.html(reader.get(page))
    assert "stopped by a fault of ours" in html
    assert "a matrix is singular" in html
    assert "every 1500ms" not in html
    ProcrastinateJob.objects.all().delete()
    reader.post(reverse("read:again", args=[walked.pk]))
    assert [job.args["study_id"] for job in waiting()] == [walked.pk]
    assert "singular" not in make.html(reader.get(page))
    services.make_reading(walked.pk)
    assert not ReadingFailure.objects.exists()


def test_a_reading_nobody_queued_is_queued_by_the_clock(walked):
    touch(walked)
    ProcrastinateJob.objects.all().delete()
    read_missed(0)
    assert [job.args for job in waiting()] == [{"study_id": walked.pk}]
    read_missed(0)
    assert len(waiting()) == 1


def test_what_failed_at_this_revision_is_not_tried_for_ever(walked):
    touch(walked)
    ProcrastinateJob.objects.all().delete()
    services.record_failure(walked.pk, "no")
    assert services.queue_missed() == 0
    touch(walked)
    ProcrastinateJob.objects.all().delete()
    assert services.queue_missed() == 1


def test_a_study_without_visits_is_not_behind(study):
    touch(study)
    ProcrastinateJob.objects.all().delete()
    assert services.queue_missed() == 0


class Manager:
    """A manager with one stalled job."""

    def __init__(self, attempts):
        self.job = type(
            "Job",
            (),
            {
                "id": 1,
                "task_name": "inchmark.read.tasks.read_study",
                "task_kwargs": {"study_id": 7},
                "attempts": attempts,
            },
        )()
        self.done = []

    async def get_stalled_jobs(self, **asked):
        return [self.job]

    async def retry_job(self, job):
        self.done.append("again")

    async def finish_job(self, job, status, delete_job):
        self.done.append(status.value)


@pytest.mark.parametrize(
    ("attempts", "done"), [(0, ["again"]), (1, ["again"]), (MOST_ATTEMPTS - 1, ["failed"])]
)
def test_a_job_whose_worker_dies_is_taken_up_a_few_times(monkeypatch, attempts, done):
    manager, given = Manager(attempts), []
    monkeypatch.setattr(app, "job_manager", manager)
    monkeypatch.setattr(
        "inchmark.upkeep.tasks.give_up", lambda task, arguments: given.append(arguments)
    )
    asyncio.run(take_up_stalled(0))
    assert manager.done == done
    assert given == ([{"study_id": 7}] if done == ["failed"] else [])


@pytest.mark.django_db(transaction=True)
def test_a_dead_job_gives_way_to_one_that_waits_for_the_same():
    ProcrastinateJob.objects.all()._raw_delete("default")
    study = make.field_study()
    ProcrastinateJob.objects.all()._raw_delete("default")
    touch(study)
    dead = ProcrastinateJob.objects.get(queue_name="read")
    with connections["default"].cursor() as cursor:
        cursor.execute("SELECT id FROM procrastinate_fetch_job_v2(ARRAY['read']::varchar[], NULL)")
    touch(study)
    with app.replace_connector(app.connector.get_worker_connector()):
        asyncio.run(_take_up())
    states = dict(ProcrastinateJob.objects.filter(queue_name="read").values_list("pk", "status"))
    assert dead.pk not in states
    assert list(states.values()) == ["todo"]


async def _take_up():
    async with app.open_async():
        await take_up_stalled(0)


def test_old_records_of_jobs_are_deleted_failed_ones_too(monkeypatch):
    asked = {}

    class Deletes:
        async def delete_old_jobs(self, **options):
            asked.update(options)

    monkeypatch.setattr(app, "job_manager", Deletes())
    monkeypatch.setattr("inchmark.upkeep.tasks.forget_old", lambda: asked.update(rates="old"))
    monkeypatch.setattr("inchmark.upkeep.tasks.forget_ended", lambda: asked.update(ended="gone"))
    monkeypatch.setattr("inchmark.upkeep.tasks.forget_removed", lambda: asked.update(undo="gone"))
    asyncio.run(purge_jobs(0))
    assert asked["ended"] == asked["undo"] == "gone"
    assert asked["rates"] == "old"
    assert asked["nb_hours"] == 72
    assert asked["include_failed"] is True


def test_what_was_given_up_says_so_where_it_stands(walked):
    file = FrameFile.objects.filter(walk__study=walked).first()
    rig = walked.rigs.first()
    drawn = SiteMap.objects.create(study=walked, rig=rig, revision=1)
    design = Design.objects.create(study=walked)
    for task, arguments in (
        ("inchmark.walk.tasks.import_file", {"file_id": file.pk}),
        ("inchmark.read.tasks.read_study", {"study_id": walked.pk}),
        ("inchmark.plan.tasks.draw_map", {"map_id": drawn.pk}),
        ("inchmark.plan.tasks.work_out_power", {"design_id": design.pk}),
        ("inchmark.upkeep.tasks.purge_jobs", {"timestamp": 0}),
    ):
        give_up(task, arguments)
    for one in (file, drawn, design):
        one.refresh_from_db()
    assert (file.state, file.problem) == (FrameFile.FAILED, DIED)
    assert (drawn.state, drawn.problem) == (Design.FAILED, DIED)
    assert design.power_state == Design.FAILED
    assert ReadingFailure.objects.get(study=walked).problem == DIED
