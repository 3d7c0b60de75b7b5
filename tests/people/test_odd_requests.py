"""Odd requests get an answer, never a 500."""

import pytest
from django.urls import reverse

from tests import make

pytestmark = pytest.mark.django_db
HUGE = "9" * 30


@pytest.mark.parametrize(
    "path",
    [
        f"/studies/{HUGE}/read/",
        f"/studies/{HUGE}/shelf/rigs/{HUGE}/",
        f"/studies/{HUGE}/walk/files/{HUGE}/bad-lines/",
        "/sign-in/%00/",
        "/studies/1/read/visits/0/",
    ],
)
def test_numbers_no_row_could_have_are_404_or_gone(client, path):
    client.force_login(make.user())
    assert client.get(path).status_code in (404, 410)


@pytest.mark.parametrize(
    "query", [{"stop": "\x00"}, {"rig": "<b>"}, {"stop": "x" * 5000}, {"page": "-1"}, {"rig": "💡"}]
)
@pytest.mark.parametrize("name", ["read:reading", "decide:decide"])
def test_odd_queries_show_the_page(owner_client, study, name, query):
    make.log(make.walk(study), make.frames_log())
    assert owner_client.get(reverse(name, args=[study.pk]), query).status_code == 200


def test_odd_fields_are_refused_with_a_sentence(owner_client, study):
    walk = make.walk(study)
    silent = reverse("walk:silent-visit", args=[study.pk, walk.pk])
    data = {"silent-rig": HUGE, "silent-stop": "x", "silent-sent": HUGE, "silent-minutes": "nan"}
    assert owner_client.post(silent, data).status_code == 422
    rig = reverse("shelf:rig-edit", args=[study.pk, study.rigs.get().pk])
    page = owner_client.post(rig, {"letter": "A\x00", "payload_bytes": HUGE, "power_dbm": "1e400"})
    assert page.status_code == 422
    assert "Null characters are not allowed" in make.html(page)
    walk_edit = reverse("walk:walk-edit", args=[study.pk, walk.pk])
    odd = {"walked_on": "2026-13-45", "frames_per_visit": HUGE, "interval_s": "9e999 s"}
    assert owner_client.post(walk_edit, odd).status_code == 422


def test_corrections_of_lines_that_are_none_change_nothing(owner_client, study):
    file = make.log(make.walk(study), make.frames_log() + "bad\n")
    page = reverse("walk:bad-lines", args=[study.pk, file.pk])
    odd = {f"line-{HUGE}": "A,1,1,1,-90", "line-x": "y", "line-²": "z", "line-22": "b\x00d"}
    response = owner_client.post(page, odd, follow=True)
    assert response.status_code == 200
    file.refresh_from_db()
    assert file.bad_lines.count() == 1
