"""Lines of logs let go by a study's own rule: figures stay, and nothing is lost by accident."""

import datetime

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone

from inchmark.studies.services.people import keep_logs
from inchmark.walk.models import BadLine, FileChunk, Frame, FrameFile, LineCorrection
from inchmark.walk.services import growing
from inchmark.walk.services.ingest import import_frames
from inchmark.walk.services.receive import RefusedError
from inchmark.walk.services.retention import let_old_go
from tests import make

pytestmark = pytest.mark.django_db
LOG = make.LOG_HEADER + "A,1,1,1,-80\nA,1,2,1,-81\nA,1,x,1,-80\nA,2,1,1,-90\n"


@pytest.fixture
def outing():
    return make.walk(make.field_study(rigs="A", stops=2))


@pytest.fixture
def old(outing):
    """A log read forty days ago, in a study that keeps them for thirty."""
    file = make.log(outing, LOG)
    keep_logs(outing.study, 30)
    FrameFile.objects.update(read_at=timezone.now() - datetime.timedelta(days=40))
    file.refresh_from_db()
    return file


def figures(of):
    return list(of.visits.order_by("pk").values_list("sent", "heard", "summary"))


def test_lines_go_when_they_are_due_and_what_was_read_from_them_stays(outing, old):
    before = figures(outing), Frame.objects.count()
    assert before[1] == 3
    assert let_old_go() == 1
    assert (figures(outing), Frame.objects.count()) == before
    for rows in (FileChunk, BadLine, LineCorrection):
        assert not rows.objects.filter(file=old).exists()
    assert let_old_go() == 0


def test_nothing_goes_without_a_rule_or_before_its_time(outing):
    make.log(outing, LOG)
    assert let_old_go() == 0
    keep_logs(outing.study, 30)
    assert let_old_go() == 0
    assert FileChunk.objects.exists()
    assert let_old_go(timezone.now() + datetime.timedelta(days=31)) == 1


def test_a_log_without_its_lines_is_neither_read_again_nor_set_aside(client, outing, old):
    let_old_go()
    client.force_login(make.owner(outing.study))
    before = figures(outing)
    for name, typed in (
        ("walk:file-again", {}),
        ("walk:file-aside", {"reason": "wrong rig"}),
        ("walk:bad-lines", {"line-4": "A,1,3,1,-80"}),
        ("walk:recipe", {"keep": "1"}),
    ):
        page = client.post(reverse(name, args=[outing.study_id, old.pk]), typed, follow=True)
        assert "were let go on" in page.content.decode(), name
    import_frames(old.pk)  # a job that was queued before they went
    assert figures(outing) == before
    old.refresh_from_db()
    assert old.state == FrameFile.READ


def test_who_asks_for_such_a_log_is_told_where_it_went(client, outing, old):
    let_old_go()
    client.force_login(make.owner(outing.study))
    answer = client.get(reverse("walk:file-original", args=[outing.study_id, old.pk]))
    assert answer.status_code == 410
    assert "were let go on" in answer.content.decode()
    page = make.html(client.get(outing.get_absolute_url()))
    assert "its lines were let go on" in page
    assert "Read again" not in page


def test_a_log_that_grows_begins_anew_once_its_lines_are_gone(outing, old):
    let_old_go()
    FrameFile.objects.filter(pk=old.pk).update(source="gateway", source_start="s1", line_count=4)
    with pytest.raises(RefusedError, match="let go"):
        growing.append_lines(
            outing,
            source="gateway",
            start="s1",
            first=5,
            lines=["A,1,3,1,-80"],
            constants={},
            by=make.owner(outing.study),
        )


def test_an_owner_says_how_long_and_a_log_may_come_again(client, outing, old):
    client.force_login(make.owner(outing.study))
    page = reverse("studies:keeping", args=[outing.study_id])
    wrong = client.post(page, {"keep_logs_days": "0"})
    assert wrong.status_code == 422
    said = client.post(page, {"keep_logs_days": "7"}, follow=True)
    assert "7 days after its last reading" in said.content.decode()
    let_old_go()
    upload = reverse("walk:log-upload", args=[outing.study_id, outing.pk])
    file = SimpleUploadedFile("again.csv", LOG.replace("x", "3").encode())
    client.post(upload, {"file": file})
    assert outing.files.count() == 2


def test_an_editor_does_not_say_how_long(client, outing):
    client.force_login(make.member(outing.study, "editor"))
    page = reverse("studies:keeping", args=[outing.study_id])
    assert client.post(page, {"keep_logs_days": "7"}).status_code == 404
