"""Sources of a walk: read-backs, lines from the browser, and the page that shows them."""

import json

import pytest
from django.urls import reverse
from django.utils import timezone

from inchmark.shelf.models import Module, Rig
from inchmark.shelf.services.parts import save_part
from inchmark.studies.models import Change
from inchmark.walk.models import FrameFile, ReadBack
from inchmark.walk.services import read_back
from inchmark.walk.services.read_back import keep_read_back
from tests import make


@pytest.fixture
def walk(study):
    return make.walk(study)


@pytest.fixture
def token(study):
    from inchmark.people.services import make_access_token

    return make_access_token(make.owner(study), name="laptop")


def told(client, walk, token, **more):
    body = {"source": "gate", "at": "2026-11-14T09:00:00Z", "asked": "SF?", "answered": "SF=9"}
    return client.post(
        f"/api/walks/{walk.pk}/read-backs",
        json.dumps(body | more),
        content_type="application/json",
        headers={"Authorization": f"Bearer {token}"},
    )


def page_of(client, walk):
    return client.get(reverse("walk:sources", args=[walk.study_id, walk.pk])).content.decode()


def sent(client, walk, **more):
    body = {"source": "board", "start": "1", "first": 1, "lines": ["rx 1"], "constants": {}}
    return client.post(
        reverse("walk:lines", args=[walk.study_id, walk.pk]),
        json.dumps(body | more),
        content_type="application/json",
    )


def test_what_a_board_answered_is_kept_once_and_shown(client, owner_client, walk, token):
    assert told(client, walk, token).status_code == 200
    assert told(client, walk, token).status_code == 200
    assert told(client, walk, token, at="2026-11-14T09:01:00Z", answered="").status_code == 200
    assert ReadBack.objects.count() == 2
    page = page_of(owner_client, walk)
    assert "SF=9" in page
    assert "nothing in 2 s" in page


def test_answers_hold_nothing_a_database_cannot(client, walk, token):
    assert told(client, walk, token, answered="OK\x00\x1b[0m\nSF=9").status_code == 200
    assert ReadBack.objects.get().answered == "OK[0m\nSF=9"
    assert told(client, walk, token, at="yesterday").status_code == 422
    assert told(client, walk, "wrong").status_code == 401


def test_a_walk_takes_so_many_read_backs(client, walk, token, monkeypatch):
    monkeypatch.setattr(read_back, "MOST_READ_BACKS", 1)
    told(client, walk, token)
    refused = told(client, walk, token, at="2026-11-14T09:02:00Z")
    assert refused.status_code == 422
    assert "has 1 read-backs already" in refused.json()["detail"]


def test_lines_from_the_browser_are_appended_once(owner_client, walk):
    assert sent(owner_client, walk).json()["through"] == 1
    assert sent(owner_client, walk, lines=["rx 1", "rx 2"]).json()["through"] == 2
    gap = sent(owner_client, walk, first=9)
    assert (gap.status_code, gap.json()["wanted"]) == (409, 3)
    file = FrameFile.objects.get()
    assert (file.source, file.line_count) == ("board", 2)
    assert Change.objects.filter(what="walk:lines").count() == 2  # those that sent from line 1
    assert "board" in page_of(owner_client, walk)


def test_lines_of_the_time_of_day_are_of_the_day_they_came(owner_client, walk):
    sent(owner_client, walk, at="2026-12-03T08:00:00Z")
    sent(owner_client, walk, source="other")
    sent(owner_client, walk, source="odd", at="0001-01-01T00:00:00+14:00")
    days = dict(FrameFile.objects.values_list("source", "said__day"))
    own = walk.walked_on.isoformat()
    assert days == {"board": "2026-12-03", "other": own, "odd": own}


@pytest.mark.parametrize(
    ("wrong", "words"),
    [
        ({"lines": ["a\nb"]}, "holds a line end"),
        ({"first": 0}, "greater than or equal to 1"),
        ({"source": ""}, "at least 1 character"),
        ({"lines": "rx"}, "valid array"),
    ],
)
def test_lines_that_are_none_get_a_sentence(owner_client, walk, wrong, words):
    refused = sent(owner_client, walk, **wrong)
    assert refused.status_code == 422
    assert words in refused.json()["detail"]
    assert not FrameFile.objects.exists()


def test_a_stranger_sends_nothing(client, walk):
    client.force_login(make.user("stranger"))
    assert sent(client, walk).status_code == 404
    page = reverse("walk:serial", args=[walk.study_id, walk.pk])
    assert client.get(page).status_code == 404


def test_the_page_of_a_walk_without_sources_says_how_to_bring_one(owner_client, walk):
    page = page_of(owner_client, walk)
    assert "Nothing has sent lines into this walk yet" in page
    assert f"/api/walks/{walk.pk}/lines" in page
    serial = owner_client.get(reverse("walk:serial", args=[walk.study_id, walk.pk]))
    assert "Choose the port and read" in serial.content.decode()


def test_read_backs_are_held_against_what_was_told_and_each_other(owner_client, study):
    module = save_part(study, Module(name="Dulse L8", template="{sf},{bw:code},{cr:code},{power}"))
    walk = make.walk(study)
    rig = study.rigs.get()
    Rig.objects.filter(pk=rig.pk).update(module_part=module)
    by = make.owner(study)
    for source in ("gate", "mast"):
        walk.files.create(
            name=f"{source}.log",
            kind="api",
            source=source,
            source_start="1",
            by=by,
            said={"rig": "A"},
        )
    at = timezone.now()
    kept = {"at": at, "by": by}
    keep_read_back(walk, source="gate", asked="CFG=9,7,1,14", answered="OK\nCFG: 9,7,1,14", **kept)
    keep_read_back(walk, source="mast", asked="CFG=9,7,1,14", answered="CFG: 8,7,1,10", **kept)
    html = make.html(owner_client.get(reverse("walk:sources", args=[study.pk, walk.pk])))
    assert "✓ as told" in html
    assert "spreading factor: told 9, says 8" in html
    assert "transmit power: told 14 dBm, says 10 dBm" in html
    assert "differ:" in html
    assert (
        "spreading factor 8 and 9, must be the same" in html
        or "spreading factor 9 and 8, must be the same" in html
    )
