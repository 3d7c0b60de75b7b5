"""Exports: in pieces, whole or broken off, not sent twice, nothing held for a slow reader."""

import pytest
from django.db import connection
from django.urls import reverse

from inchmark.pages import parts
from inchmark.read.services import ChangedMeanwhileError, exported_frames
from inchmark.shelf.services.rigs import save_rig
from inchmark.studies.services import touch
from inchmark.walk import querysets
from inchmark.walk.models import Frame
from tests import make


@pytest.fixture
def short_pieces(monkeypatch):
    """Let an export go out in pieces of seven lines."""
    monkeypatch.setattr(querysets, "EXPORT_LINES", 7)


def test_pieces_join_to_the_same_file(walked, short_pieces, monkeypatch):
    walked.refresh_from_db()
    pieces = list(exported_frames(walked))
    monkeypatch.undo()
    assert len(pieces) > 10
    assert b"".join(pieces) == b"".join(exported_frames(walked))
    assert b"".join(pieces).count(b"\n") == 1 + Frame.objects.count()


def test_a_study_changed_meanwhile_breaks_the_export_off(walked, short_pieces):
    walked.refresh_from_db()
    pieces = exported_frames(walked)
    next(pieces), next(pieces)
    touch(walked)
    with pytest.raises(ChangedMeanwhileError):
        list(pieces)


@pytest.mark.django_db(transaction=True)
def test_between_blocks_no_connection_is_held():
    def blocks():
        for _ in range(3):
            with connection.cursor() as cursor:
                cursor.execute("SELECT 1")
            yield b"x"

    for _ in parts._letting_go(blocks()):
        assert connection.connection is None


@pytest.mark.parametrize(
    "name", ["read:export-frames", "read:export-stops", "read:export-visits", "read:export-reading"]
)
def test_what_a_browser_holds_is_not_sent_again_until_it_changes(reader, walked, name):
    page = reverse(name, args=[walked.pk])
    first = reader.get(page)
    again = reader.get(page, headers={"If-None-Match": first["ETag"]})
    assert again.status_code == 304
    assert again["ETag"] == first["ETag"]
    rig = walked.rigs.get(letter="A")
    rig.antenna = "another"
    save_rig(walked, rig)
    assert reader.get(page, headers={"If-None-Match": first["ETag"]}).status_code == 200


def test_a_stranger_is_told_of_no_match(client, reader, walked):
    page = reverse("read:export-stops", args=[walked.pk])
    etag = reader.get(page)["ETag"]
    client.force_login(make.user("stranger"))
    assert client.get(page, headers={"If-None-Match": etag}).status_code == 404


def test_pages_travel_compressed_and_of_no_fixed_length(reader, walked):
    page = reverse("read:reading", args=[walked.pk])
    asked = [reader.get(page, headers={"Accept-Encoding": "gzip"}) for _ in range(12)]
    assert {one["Content-Encoding"] for one in asked} == {"gzip"}
    assert len({len(one.content) for one in asked}) > 1
    assert max(len(one.content) for one in asked) < len(reader.get(page).content) / 3
