"""Lines of a source through the API: each once, in order, read on as they come."""

import json

import pytest

from inchmark.people.services import make_access_token
from inchmark.walk.models import Frame, FrameFile
from inchmark.walk.services.growing import GapError, append_lines
from inchmark.walk.services.ingest import import_frames
from inchmark.walk.services.recipes import set_aside, take_back
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def walk():
    return make.walk(make.field_study(rigs="AB", stops=2))


@pytest.fixture
def send(client, walk):
    secret = make_access_token(make.owner(walk.study), "bridge")

    def post(first, lines, *, source="gate", start="1", of=None, secret=secret, **constants):
        body = {
            "source": source, "start": start, "first": first, "lines": lines,
            "constants": constants,
        }  # fmt: skip
        return client.post(
            f"/api/walks/{(of or walk).pk}/lines",
            json.dumps(body),
            content_type="application/json",
            headers={"Authorization": f"Bearer {secret}"},
        )

    return post


def beats(first, count):
    return [
        f"14:{i // 60:02d}:{i % 60:02d} rx seq={i} rssi=-{80 + i % 5}"
        for i in range(first, first + count)
    ]


def test_lines_sent_again_are_there_once_and_a_gap_is_refused(send):
    assert send(1, beats(0, 5)).json()["through"] == 5
    assert send(1, beats(0, 5)).json()["through"] == 5
    assert send(4, beats(3, 4)).json()["through"] == 7
    response = send(10, beats(9, 2))
    assert (response.status_code, response.json()["wanted"]) == (409, 8)
    file = FrameFile.objects.get()
    data = b"".join(bytes(chunk.data) for chunk in file.chunks.all())
    assert data.decode().splitlines() == beats(0, 7)


def test_a_log_that_grows_is_read_on_by_the_recipe_proposed_for_it(send, walk):
    send(1, beats(0, 20), rig="A", stop="1")
    file = FrameFile.objects.get()
    assert file.recipe is not None
    import_frames(file.pk)
    assert Frame.objects.count() == 20
    send(21, beats(20, 10), rig="A", stop="1")
    import_frames(file.pk)
    assert sorted(Frame.objects.values_list("seq", flat=True)) == list(range(30))
    assert walk.visits.get().sent == 30


def test_a_log_with_a_question_waits_for_a_person(send):
    send(1, [f"rx seq={i} rssi={40 + i}%" for i in range(20)])
    assert FrameFile.objects.get().state == FrameFile.ASKING


def test_lines_of_our_own_kind_need_no_recipe(send):
    send(1, [json.dumps({"rig": "A", "stop": "1", "seq": i}) for i in range(5)])
    file = FrameFile.objects.get()
    import_frames(file.pk)
    assert file.recipe is None
    assert Frame.objects.count() == 5


def test_two_starts_of_a_source_are_two_logs(send):
    send(1, beats(0, 3))
    send(1, beats(0, 3), start="2")
    assert FrameFile.objects.count() == 2


@pytest.mark.parametrize(
    ("first", "lines", "source", "status"),
    [
        (0, ["x"], "gate", 422),
        (1, ["x"] * 2001, "gate", 422),
        (1, ["a\nb"], "gate", 422),
        (1, ["x"], "", 422),
        (1, ["\x00\x07 \ud800".encode("utf-8", "replace").decode()], "gate", 200),
    ],
)
def test_what_is_no_batch_gets_a_sentence_and_no_fault(send, first, lines, source, status):
    assert send(first, lines, source=source).status_code == status


def test_a_token_reaches_only_its_owners_walks(send, client, walk):
    other = make.walk(make.field_study())
    assert send(1, ["x"], of=other).status_code == 404
    assert send(1, ["x"], secret="nobody").status_code == 401
    assert not FrameFile.objects.exists()


def test_a_log_over_the_limit_says_so(walk, settings):
    settings.UPLOAD_LIMIT_BYTES = 10
    with pytest.raises(Exception, match="over the limit"):
        append_lines(
            walk, source="s", start="1", first=1, lines=["x" * 20], constants={},
            by=make.owner(walk.study),
        )  # fmt: skip
    with pytest.raises(GapError, match="from line 1"):
        append_lines(
            walk, source="s", start="1", first=3, lines=["x"], constants={},
            by=make.owner(walk.study),
        )  # fmt: skip


def test_lines_that_are_an_archive_get_a_sentence_and_no_fault(send):
    assert send(1, ["%PDF-1.7", *["stream"] * 20]).status_code == 200
    file = FrameFile.objects.get()
    assert (file.state, "a PDF" in file.problem) == (FrameFile.FAILED, True)
    assert send(22, ["more"]).json()["through"] == 22


def test_a_log_set_aside_stays_aside_while_it_grows(send, walk):
    send(1, beats(0, 20), rig="A", stop="1")
    file = import_frames(FrameFile.objects.get().pk)
    set_aside(file, "wrong antenna")
    send(21, beats(20, 10))
    file = import_frames(file.pk)  # a reading that was under way
    assert (file.state, file.line_count) == (FrameFile.ASIDE, 30)
    assert not walk.visits.exists()
    take_back(file)
    assert walk.visits.get().sent == 30
