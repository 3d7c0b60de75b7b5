"""Other people's studies are 404 at every address; a viewer sees and cannot change."""

import pytest
from django.urls import reverse

from inchmark.read.services import make_reading
from tests import make
from tests.people.addresses import OF_NO_STUDY, addresses, everything, swapped

pytestmark = pytest.mark.django_db


@pytest.fixture
def urls(study):
    """Name and URL of every address of a study with something at each."""
    pks = everything(study)
    return [(one.name, url) for one in addresses() if one.of_study for url in one.urls(pks, study)]


def test_every_address_is_a_studys_or_known_to_be_none():
    assert {one.name for one in addresses() if not one.of_study} == OF_NO_STUDY


def test_a_stranger_gets_404_for_everything(client, urls):
    client.force_login(make.user())
    for name, url in urls:
        assert client.get(url).status_code in (404, 405), name
        assert client.post(url).status_code in (404, 405), name


def test_each_address_serves_its_owner(client, study, urls):
    # what is refused to strangers below is really there: no address passes by being wrong
    make_reading(study.pk)
    client.force_login(make.owner(study))
    for name, url in urls:
        response = client.get(url)
        # 204: a stream, which this client is no server for
        assert response.status_code in (200, 204, 302, 405), name


def test_someone_not_signed_in_is_asked_to(client, urls):
    for name, url in urls:
        for response in (client.get(url), client.post(url)):
            assert response.status_code in (302, 405), name
            if response.status_code == 302:
                assert response.url.startswith(reverse("people:sign-in")), name
        assert 302 in (client.get(url).status_code, client.post(url).status_code), name


def test_a_viewer_sees_the_rooms_and_changes_nothing(client, study, urls):
    client.force_login(make.member(study, "viewer"))
    for name in ("shelf:rigs", "plan:stops", "walk:walks", "read:reading", "decide:decide"):
        assert client.get(reverse(name, args=[study.pk]), follow=True).status_code == 200, name
    for name, url in urls:
        if name != "studies:leave":  # the one thing of a study a viewer decides
            assert client.post(url).status_code in (404, 405), name


def test_a_row_of_another_study_is_404_under_mine(client, study):
    mine, theirs = everything(study), everything(make.field_study())
    assert mine.keys() == theirs.keys()
    client.force_login(make.owner(study))
    for name, url in swapped(study, theirs):
        assert client.get(url).status_code in (404, 405), name
        assert client.post(url).status_code in (404, 405), name
        assert 404 in (client.get(url).status_code, client.post(url).status_code), name


def test_my_list_holds_my_studies_only_and_costs_a_fixed_number_of_queries(
    client, study, django_assert_max_num_queries
):
    mine = make.owner(study)
    for i in range(12):
        make.study(mine, title=f"Mine {i}")
    make.study(title="Not mine")
    client.force_login(mine)
    with django_assert_max_num_queries(4):
        page = make.html(client.get(reverse("studies:list")))
    assert "Mine 11" in page
    assert "Not mine" not in page


def test_an_unknown_address_says_so_without_a_trace(client):
    response = client.get("/no/such/page/")
    assert response.status_code == 404
    assert "There is nothing at this address" in make.html(response)
