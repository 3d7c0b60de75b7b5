"""Other people's studies are 404 at every address; a viewer sees and cannot change."""

import pytest
from django.urls import reverse

from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def addresses(study):
    """Every address of a study: (GET page or None, POST page or None)."""
    walk = make.walk(study)
    file = make.log(walk, make.frames_log() + "bad line\n")
    s, rig, stop = study.pk, study.rigs.get(letter="A").pk, study.stops.first().pk
    visit = walk.visits.get().pk
    pages = [
        ("studies:study-edit", [s]),
        ("shelf:rigs", [s]),
        ("shelf:rig-add", [s]),
        ("shelf:rig-edit", [s, rig]),
        ("plan:stops", [s]),
        ("plan:site-edit", [s]),
        ("plan:stop-add", [s]),
        ("plan:stop-edit", [s, stop]),
        ("walk:walks", [s]),
        ("walk:walk-add", [s]),
        ("walk:walk", [s, walk.pk]),
        ("walk:walk-edit", [s, walk.pk]),
        ("walk:bad-lines", [s, file.pk]),
        ("walk:file-original", [s, file.pk]),
        ("read:reading", [s]),
        ("read:visit", [s, visit]),
        ("read:export-frames", [s]),
        ("read:export-stops", [s]),
        ("read:export-visits", [s]),
        ("read:export-reading", [s]),
        ("decide:decide", [s]),
    ]
    posts = [
        ("studies:study-edit", [s]),
        ("studies:note-decide", [s]),
        ("shelf:rig-add", [s]),
        ("shelf:rig-edit", [s, rig]),
        ("shelf:rig-copy", [s, rig]),
        ("shelf:rig-remove", [s, rig]),
        ("plan:site-edit", [s]),
        ("plan:stop-add", [s]),
        ("plan:stop-edit", [s, stop]),
        ("plan:stop-remove", [s, stop]),
        ("plan:stops-file", [s]),
        ("walk:walk-add", [s]),
        ("walk:walk-edit", [s, walk.pk]),
        ("walk:log-upload", [s, walk.pk]),
        ("walk:boards-walk", [s, walk.pk]),
        ("walk:silent-visit", [s, walk.pk]),
        ("walk:bad-lines", [s, file.pk]),
        ("walk:file-again", [s, file.pk]),
    ]
    return pages, posts


def test_a_stranger_gets_404_for_everything(client, addresses):
    client.force_login(make.user())
    pages, posts = addresses
    for name, arguments in pages:
        assert client.get(reverse(name, args=arguments)).status_code == 404, name
    for name, arguments in posts:
        assert client.post(reverse(name, args=arguments)).status_code == 404, name


def test_someone_not_signed_in_is_asked_to(client, addresses):
    for name, arguments in [*addresses[0], *addresses[1]]:
        response = client.get(reverse(name, args=arguments))
        assert response.status_code in (302, 405), name
        if response.status_code == 302:
            assert response.url.startswith(reverse("people:sign-in")), name


def test_a_viewer_sees_the_rooms_and_changes_nothing(client, study, addresses):
    client.force_login(make.member(study, "viewer"))
    for name in ("shelf:rigs", "plan:stops", "read:reading", "decide:decide"):
        assert client.get(reverse(name, args=[study.pk])).status_code == 200, name
    for name, arguments in addresses[1]:
        assert client.post(reverse(name, args=arguments)).status_code == 404, name


def test_a_row_of_another_study_is_404_under_mine(client, study):
    other = make.field_study()
    walk = make.walk(other)
    client.force_login(make.owner(study))
    assert client.get(reverse("walk:walk", args=[study.pk, walk.pk])).status_code == 404
    assert (
        client.get(reverse("shelf:rig-edit", args=[study.pk, other.rigs.get().pk])).status_code
        == 404
    )


def test_my_list_holds_my_studies_only_and_costs_a_fixed_number_of_queries(
    client, study, django_assert_max_num_queries
):
    mine = make.owner(study)
    for i in range(12):
        make.study(mine, title=f"Mine {i}")
    make.study(title="Not mine")
    client.force_login(mine)
    with django_assert_max_num_queries(4):
        page = client.get(reverse("studies:list")).content.decode()
    assert "Mine 11" in page
    assert "Not mine" not in page


def test_an_unknown_address_says_so_without_a_trace(client):
    response = client.get("/no/such/page/")
    assert response.status_code == 404
    assert "There is nothing at this address" in response.content.decode()
