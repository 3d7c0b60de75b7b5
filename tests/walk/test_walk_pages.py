"""The walk in the browser's requests: upload, progress, bad lines, boards, the HTTP door."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from procrastinate.contrib.django.models import ProcrastinateJob

from inchmark.people.services import make_access_token
from inchmark.plan.models import Stop
from inchmark.plan.services import save_stop
from inchmark.walk.models import FrameFile
from inchmark.walk.services.boards import receive_from_boards
from inchmark.walk.services.ingest import import_frames
from inchmark.walk.tasks import import_file
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def walk(study):
    """A walk of the study."""
    return make.walk(study)


def page_of(walk):
    return reverse("walk:walk", args=[walk.study_id, walk.pk])


def upload(client, walk, data, name="log.csv"):
    file = SimpleUploadedFile(name, data if isinstance(data, bytes) else data.encode())
    return client.post(
        reverse("walk:log-upload", args=[walk.study_id, walk.pk]), {"file": file}, follow=True
    )


def queued():
    return list(ProcrastinateJob.objects.values_list("task_name", flat=True))


def test_an_upload_waits_in_the_queue_and_is_shown_waiting(owner_client, walk):
    page = make.html(upload(owner_client, walk, make.frames_log()))
    assert "being read" in page
    assert 'hx-trigger="every 700ms"' in page
    assert "inchmark.walk.tasks.import_file" in queued()


def test_once_read_the_page_stops_asking(owner_client, walk):
    make.log(walk, make.frames_log() + "bad\n")
    page = make.html(owner_client.get(page_of(walk)))
    assert "hx-trigger" not in page.split("</main>")[0]
    assert reverse("walk:bad-lines", args=[walk.study_id, walk.files.get().pk]) in page


def test_htmx_gets_the_part_and_a_reload_the_page(owner_client, walk):
    part = owner_client.get(page_of(walk), headers={"HX-Request": "true"})
    assert "<html" not in make.html(part)
    assert "HX-Request" in part["Vary"]
    assert "<html" in owner_client.get(page_of(walk)).content.decode()


def test_uploading_the_same_log_again_says_so(owner_client, walk):
    upload(owner_client, walk, make.frames_log())
    page = make.html(upload(owner_client, walk, make.frames_log(), "copy.csv"))
    assert (
        "copy.csv holds the same bytes as log.csv, which is here already. Nothing was added."
        in page
    )


def test_a_log_over_the_limit_gets_a_sentence(owner_client, walk, settings):
    settings.UPLOAD_LIMIT_BYTES = 1024
    response = upload(owner_client, walk, make.frames_log(heard=500))
    assert response.status_code == 422
    assert "Split it by walk or by day" in make.html(response)


def test_no_file_at_all_gets_a_sentence(owner_client, walk):
    response = owner_client.post(reverse("walk:log-upload", args=[walk.study_id, walk.pk]))
    assert response.status_code == 422
    assert "This field is required" in make.html(response)


def test_bad_lines_can_be_seen_corrected_and_read_again(owner_client, walk):
    file = make.log(walk, make.frames_log() + "A,1,2O,1,-90\n")
    page = reverse("walk:bad-lines", args=[walk.study_id, file.pk])
    shown = make.html(owner_client.get(page))
    assert "A,1,2O,1,-90" in shown
    assert "which is not a number" in shown
    said = make.html(owner_client.post(page, {"line-22": "A,1,20,1,-90"}, follow=True))
    assert "1 lines corrected" in said
    assert import_frames(file.pk).bad_count == 0
    assert "All lines were read" in owner_client.get(page).content.decode()


def test_many_bad_lines_come_by_the_page(owner_client, walk, django_assert_max_num_queries):
    file = make.log(walk, make.frames_log() + "bad\n" * 120)
    page = reverse("walk:bad-lines", args=[walk.study_id, file.pk])
    with django_assert_max_num_queries(13):
        assert "Page 2 of 3" in owner_client.get(page + "?page=2").content.decode()


def test_a_text_of_markup_is_shown_as_text(owner_client, walk):
    file = make.log(walk, make.frames_log() + "<script>alert(1)</script>\n")
    page = reverse("walk:bad-lines", args=[walk.study_id, file.pk])
    assert "<script>alert" not in owner_client.get(page).content.decode()


def test_the_file_comes_back_byte_for_byte(owner_client, walk):
    data = make.frames_log().encode() + b"A,1,\xff\n"
    file = make.log(walk, data)
    response = owner_client.get(reverse("walk:file-original", args=[walk.study_id, file.pk]))
    assert b"".join(response.streaming_content) == data
    assert response["Content-Disposition"] == 'attachment; filename="log.csv"'


def test_a_walk_starts_with_the_next_number(owner_client, study):
    make.walk(study)
    owner_client.post(
        reverse("walk:walk-add", args=[study.pk]),
        {"walked_on": "2026-11-15", "interval_s": "5 s", "people": "two"},
    )
    walk = study.walks.last()
    assert (walk.number, walk.interval_s) == (2, 5.0)


def test_a_walk_without_a_date_is_not_started(owner_client, study):
    response = owner_client.post(reverse("walk:walk-add", args=[study.pk]), {"interval_s": "soon"})
    assert response.status_code == 422
    assert study.walks.count() == 0


def test_silence_is_logged_from_the_page(owner_client, walk):
    page = reverse("walk:silent-visit", args=[walk.study_id, walk.pk])
    rig, stop = walk.study.rigs.get().pk, walk.study.stops.first().pk
    owner_client.post(page, {"silent-rig": rig, "silent-stop": stop, "silent-sent": "40"})
    assert walk.visits.get().sent == 40
    response = owner_client.post(page, {"silent-rig": rig, "silent-stop": stop})
    assert response.status_code == 422
    assert "Say how many frames went out" in make.html(response)


def test_boards_walk_every_rig_over_every_stop(owner_client, walk):
    make.rig(walk.study, "B")
    owner_client.post(reverse("walk:boards-walk", args=[walk.study_id, walk.pk]))
    file = walk.files.get()
    assert file.state == FrameFile.RECEIVING
    receive_from_boards(file.pk)
    file = import_frames(file.pk)
    assert file.state == "read"
    assert file.bad_count <= file.frame_count  # frames sent between the stops stand at none
    assert walk.visits.count() == 4
    counted = {(v.rig.letter, v.stop.label): v.sent for v in walk.visits.all()}
    assert all(sent == pytest.approx(60, abs=2) for sent in counted.values())
    assert [stay.stop.label for stay in walk.stays.all()] == ["1", "2"]
    assert file.recipe is not None


def test_boards_that_are_not_heard_at_a_stop_were_silent_there(owner_client, walk):
    rig = make.rig(walk.study, "B", power_dbm=-9.0, antenna_gain_dbi=-20.0)
    save_stop(walk.study, Stop(label="far", distance_m=30_000.0))
    owner_client.post(reverse("walk:boards-walk", args=[walk.study_id, walk.pk]))
    file = walk.files.get()
    receive_from_boards(file.pk)
    import_file(file_id=file.pk)
    silent = walk.visits.get(rig=rig, stop__label="far")
    assert (silent.sent, silent.heard) == (60, 0)


def test_a_second_walk_with_boards_begins_after_the_first(owner_client, walk):
    url = reverse("walk:boards-walk", args=[walk.study_id, walk.pk])
    owner_client.post(url)
    owner_client.post(url)
    first, second, third, fourth = walk.stays.all()
    assert third.from_time > second.to_time
    assert (first.stop, second.stop) == (third.stop, fourth.stop)


def test_boards_taken_up_again_keep_what_arrived_and_do_not_walk_twice(owner_client, walk):
    owner_client.post(reverse("walk:boards-walk", args=[walk.study_id, walk.pk]))
    file = walk.files.get()
    line = b"[09:00:01.000] rx rig=A seq=0 rssi=-60 snr=40.0 noise=-117\r\n"
    file.chunks.create(number=0, data=line)
    receive_from_boards(file.pk)
    import_frames(file.pk)
    assert sum(visit.heard for visit in walk.visits.all()) == 1
    receive_from_boards(file.pk)
    assert file.chunks.count() == 1


def test_boards_need_a_rig_and_two_stops(client):
    walk = make.walk(make.field_study(stops=1))
    client.force_login(make.owner(walk.study))
    page = client.post(reverse("walk:boards-walk", args=[walk.study_id, walk.pk]), follow=True)
    assert "need at least one rig on the shelf and two stops" in make.html(page)
    assert not walk.files.exists()


def send(client, walk, data, token):
    return client.post(
        f"/api/walks/{walk.pk}/frames",
        data,
        content_type="text/plain",
        headers={"Authorization": f"Bearer {token}"},
    )


def test_a_bridge_sends_frames_with_its_token(client, walk):
    token = make_access_token(make.owner(walk.study), "bridge")
    answer = send(client, walk, make.frames_log(), token)
    assert answer.status_code == 202
    assert import_frames(answer.json()["file"]).frame_count == 20
    assert send(client, walk, make.frames_log(), token).json()["known"] is True


def test_the_door_is_shut_without_a_token_for_others_and_for_nothing(client, walk):
    assert send(client, walk, make.frames_log(), "guess").status_code == 401
    stranger = make_access_token(make.user(), "x")
    assert send(client, walk, make.frames_log(), stranger).status_code == 404
    viewer = make_access_token(make.member(walk.study, "viewer"), "x")
    assert send(client, walk, make.frames_log(), viewer).status_code == 404
    token = make_access_token(make.owner(walk.study), "bridge")
    empty = send(client, walk, "", token)
    assert (empty.status_code, empty.json()["detail"]) == (
        422,
        "The file is empty. Nothing was added.",
    )
