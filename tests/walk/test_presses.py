"""Presses of a thumb: kept as lines, each once, from members and from those who only log."""

import json

import pytest
from django.urls import reverse

from inchmark.studies.models import Change
from inchmark.walk.models import FrameFile, Visit
from inchmark.walk.services.field import account_of, make_pass, pass_of
from inchmark.walk.tasks import import_file
from tests import make

PRESS = {"at": "2026-11-14T13:02:05.120Z", "heard": True, "rig": "A", "stop": "1"}


@pytest.fixture
def walk(study):
    return make.walk(study)


def sent(client, walk, presses, **more):
    body = {"start": "phone-1", "first": 1, "presses": presses}
    return client.post(
        reverse("walk:presses", args=[walk.study_id, walk.pk]),
        json.dumps(body | more),
        content_type="application/json",
    )


def test_presses_are_kept_once_and_read_as_frames(owner_client, walk):
    missed = PRESS | {"heard": False, "condition": "in a pocket"}
    assert sent(owner_client, walk, [PRESS, PRESS, missed]).json()["through"] == 3
    assert sent(owner_client, walk, [PRESS, PRESS, missed, missed]).json()["through"] == 4
    assert sent(owner_client, walk, [PRESS], first=9).json()["wanted"] == 5
    file = import_file(file_id=FrameFile.objects.get().pk) or FrameFile.objects.get()
    file.refresh_from_db()
    assert (file.frame_count, file.bad_count) == (4, 0)
    visits = {v.condition: (v.heard, v.sent) for v in Visit.objects.all()}
    assert visits == {"": (2, 2), "in a pocket": (0, 2)}
    assert Change.objects.filter(what="walk:presses").exists()


def test_two_phones_do_not_clash(owner_client, walk):
    sent(owner_client, walk, [PRESS])
    sent(owner_client, walk, [PRESS, PRESS], start="phone-2")
    assert sorted(FrameFile.objects.values_list("source_start", "line_count")) == [
        ("phone-1", 1),
        ("phone-2", 2),
    ]


def test_who_only_logs_may_count_and_a_stranger_may_not(client, walk):
    secret = make_pass(walk, "Ben")
    client.force_login(
        account_of(pass_of(secret)), backend="django.contrib.auth.backends.ModelBackend"
    )
    assert sent(client, walk, [PRESS]).status_code == 200
    for name in ("thumb", "thumb-worker", "thumb-manifest"):
        page = reverse(f"walk:{name}", args=[walk.study_id, walk.pk])
        assert client.get(page).status_code == 200
    client.force_login(make.user("stranger"))
    assert sent(client, walk, [PRESS]).status_code == 404


@pytest.mark.parametrize(
    ("presses", "words"),
    [
        ([], "at least 1 item"),
        ([PRESS | {"at": "noon"}], "presses.0.at"),
        ([PRESS | {"rig": ""}], "presses.0.rig"),
        ([PRESS | {"stop": "1\n2"}], "presses.0.stop"),
        ("heard", "valid array"),
    ],
)
def test_presses_that_are_none_get_a_sentence(owner_client, walk, presses, words):
    refused = sent(owner_client, walk, presses)
    assert refused.status_code == 422
    assert words in refused.json()["detail"]
    assert not FrameFile.objects.exists()


def test_the_manifest_leads_to_the_page(owner_client, walk):
    told = owner_client.get(reverse("walk:thumb-manifest", args=[walk.study_id, walk.pk])).json()
    assert told["start_url"] == reverse("walk:thumb", args=[walk.study_id, walk.pk])
