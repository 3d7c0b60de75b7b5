"""What costs much can be asked for so many times a minute."""

from datetime import timedelta

import pytest
from django.urls import reverse
from django.utils import timezone

from inchmark.people.models import Spent
from inchmark.people.services import rates
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def one_minute(monkeypatch):
    """A clock on which no minute ends while a test counts."""
    moment = timezone.now()
    monkeypatch.setattr("inchmark.people.services.rates.timezone.now", lambda: moment)


@pytest.mark.usefixtures("one_minute")
def test_too_often_is_refused_with_how_long_to_wait_and_others_go_on(owner_client, study, client):
    page = reverse("read:again", args=[study.pk])
    asked = [owner_client.post(page) for _ in range(13)]
    assert [one.status_code for one in asked] == [302] * 12 + [429]
    assert asked[-1]["Retry-After"] == "60"
    assert "12 times a minute" in asked[-1].content.decode()
    client.force_login(make.member(study, "editor"))
    assert client.post(page).status_code == 302


def test_looking_is_not_counted(owner_client, study):
    for _ in range(45):
        assert owner_client.get(reverse("shelf:ladders", args=[study.pk])).status_code == 200
    assert not Spent.objects.exists()


def test_a_new_minute_begins_anew_and_old_counts_go(study):
    user = make.owner(study)
    assert [rates.spend(user.pk, "x"), rates.spend(user.pk, "x")] == [1, 2]
    Spent.objects.update(minute=timezone.now() - timedelta(hours=2))
    assert rates.spend(user.pk, "x") == 1
    rates.forget_old()
    assert Spent.objects.count() == 1
