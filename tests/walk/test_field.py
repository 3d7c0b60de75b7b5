"""Someone who only logs: a link into one walk, its counts and logs, and nothing else."""

import re
from datetime import timedelta

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from inchmark.people.services import make_access_token
from inchmark.plan.services.design import design_of
from inchmark.walk.models import FieldPass, HandCount
from inchmark.walk.services.field import pass_of
from tests import make
from tests.people.addresses import addresses, everything

pytestmark = pytest.mark.django_db
OPEN_TO_A_PASS = {"walk:counts", "walk:counts-latest", "walk:log-upload"}


@pytest.fixture
def walk(study):
    design_of(study)
    return make.walk(study)


def link_of(client, walk):
    page = reverse("walk:pass-add", args=[walk.study_id, walk.pk])
    html = make.html(client.post(page, {"name": "Ben"}))
    return "/field/" + re.search(r"/field/([\w-]+)/", html).group(1) + "/"


@pytest.fixture
def ben(owner_client, walk):
    browser, link = Client(), link_of(owner_client, walk)
    assert browser.get(link).status_code == 200
    assert browser.post(link).url == reverse("walk:counts", args=[walk.study_id, walk.pk])
    return browser


def test_a_pass_types_counts_in_and_they_count(ben, walk):
    page = reverse("walk:counts", args=[walk.study_id, walk.pk])
    html = make.html(ben.get(page, {"stop": "1"}))
    assert "Measuring tape" not in html
    assert 'data-room="5"' not in html
    prefix = re.search(r'name="([A-Z]-\d+)-sent"', html).group(1)
    typed = {f"{prefix}-sent": "20", f"{prefix}-heard": "12"}
    assert ben.post(f"{page}?stop=1", typed).status_code == 302
    count = HandCount.objects.get()
    assert (count.sent, count.heard) == (20, 12)
    assert count.by.username.startswith("Ben (field")


def test_a_pass_sends_a_log_and_stays_at_the_counts(ben, walk):
    log = SimpleUploadedFile("ben.csv", make.frames_log().encode())
    page = reverse("walk:log-upload", args=[walk.study_id, walk.pk])
    response = ben.post(page, {"file": log}, follow=True)
    assert "ben.csv has arrived whole" in make.html(response)
    assert walk.files.get().name == "ben.csv"
    empty = ben.post(page, {"file": SimpleUploadedFile("e.csv", b"")}, follow=True)
    assert "empty" in make.html(empty)


def test_a_pass_sees_no_more_of_the_study_and_nothing_of_others(ben, study, walk):
    for pks, of in ((everything(study), study), (everything(other := make.field_study()), other)):
        for one in addresses():
            if not one.of_study or (of == study and one.name in OPEN_TO_A_PASS):
                continue
            for url in one.urls(pks, of):
                assert ben.get(url).status_code in (404, 405), one.name
                assert ben.post(url).status_code in (404, 405), one.name


def test_the_code_of_the_run_sheet_leads_a_pass_to_its_walk(ben, walk):
    response = ben.get(reverse("walk:counts-latest", args=[walk.study_id]), {"stop": "2"})
    assert response.url == reverse("walk:counts", args=[walk.study_id, walk.pk]) + "?stop=2"


def test_a_token_of_a_pass_sends_into_its_walk_only(ben, walk):
    secret = make_access_token(FieldPass.objects.get().user, "bridge")

    assert [make.post_frames(ben, secret, to) for to in (walk, make.walk(walk.study))] == [202, 404]


def test_an_ended_or_old_pass_opens_nothing_and_what_was_logged_stays(owner_client, ben, walk):
    page = reverse("walk:counts", args=[walk.study_id, walk.pk])
    FieldPass.objects.update(expires_at=timezone.now() - timedelta(seconds=1))
    assert ben.get(page).status_code == 404
    FieldPass.objects.update(expires_at=timezone.now() + timedelta(days=1))
    assert ben.get(page).status_code == 200
    pk = FieldPass.objects.get().pk
    owner_client.post(reverse("walk:pass-end", args=[walk.study_id, pk]))
    assert ben.get(page).status_code == 404
    assert Client().get("/field/nothing/").status_code == 410


def test_the_same_link_opens_on_a_second_phone_as_the_same_person(owner_client, walk):
    link = link_of(owner_client, walk)
    for _ in range(2):
        Client().post(link)
    assert pass_of(link.split("/")[2]).user.field_passes.count() == 1


def test_a_pass_needs_a_name_and_an_editor(owner_client, client, walk):
    page = reverse("walk:pass-add", args=[walk.study_id, walk.pk])
    assert owner_client.post(page, {"name": ""}).status_code == 422
    client.force_login(make.member(walk.study, "viewer"))
    assert client.post(page, {"name": "Ben"}).status_code == 404
