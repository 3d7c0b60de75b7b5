"""What was removed is put back as it was, with all that hung on it."""

import datetime

import pytest
from django.core.exceptions import ValidationError
from django.urls import reverse
from django.utils import timezone

from inchmark.decide.services.budget import set_item
from inchmark.plan.models import SitePoint
from inchmark.plan.services import remove_stop
from inchmark.plan.services.points import remove_point, save_point
from inchmark.shelf.models import Sweep
from inchmark.shelf.services.rigs import remove_rig
from inchmark.shelf.services.sweeps import remove_sweep
from inchmark.studies.models import Removed
from inchmark.studies.services.undo import KEPT, forget_removed, put_back
from tests import make

pytestmark = pytest.mark.django_db


def row_of(one):
    """A row's columns, read afresh."""
    return type(one).objects.filter(pk=one.pk).values().get()


def test_a_rig_comes_back_with_its_budget_items(study):
    rig = study.rigs.get()
    item = set_item(rig, "carried_feed", 1.25, "measured")
    before, items = row_of(rig), row_of(item)
    removed = remove_rig(rig)
    assert not study.rigs.exists()
    put_back(removed)
    rig, item = study.rigs.get(), study.rigs.get().budget_items.get()
    assert (row_of(rig), row_of(item)) == (before, items)
    assert not Removed.objects.exists()


def test_what_let_go_of_a_sweep_holds_it_again_and_its_file_is_whole(study):
    rig = study.rigs.get()
    sweep = Sweep.objects.create(
        study=study, antenna="coil", swept_on=datetime.date(2026, 11, 2), name="a.s1p",
        data=bytes(range(256)), points=[[863e6, 0.1, 0.0], [870e6, 0.2, 0.0]],
    )  # fmt: skip
    type(rig).objects.filter(pk=rig.pk).update(sweep=sweep)
    number = sweep.pk
    removed = remove_sweep(sweep)
    assert study.rigs.get().sweep_id is None
    put_back(removed)
    assert study.rigs.get().sweep_id == number
    assert bytes(study.sweeps.get().data) == bytes(range(256))


def test_what_has_its_place_taken_meanwhile_stays_away_and_the_study_stays_as_it_is(study):
    removed = remove_rig(study.rigs.get())
    make.rig(study, "A", antenna="another")
    with pytest.raises(ValidationError, match="Rig A cannot be put back: something else"):
        put_back(removed)
    assert study.rigs.get().antenna == "another"
    assert Removed.objects.filter(pk=removed.pk).exists()


def test_only_so_many_are_kept(study):
    for i in range(KEPT + 3):
        point = SitePoint(kind="node", label=f"N{i}", name="x", lat=47.5, lon=-21 + i / 1000)
        remove_point(save_point(study, point))
    assert study.removed.count() == KEPT


def test_undo_stands_beside_what_was_said_and_works_from_there(owner_client, study):
    stop = study.stops.get(label="2")
    before = row_of(stop)
    page = reverse("plan:stop-remove", args=[study.pk, stop.pk])
    html = make.html(owner_client.post(page, follow=True))
    assert "Stop 2 is removed." in html
    removed = study.removed.get()
    undo = reverse("studies:put-back", args=[study.pk, removed.pk])
    assert f'action="{undo}"' in html
    html = make.html(
        owner_client.post(undo, {"next": reverse("plan:stops", args=[study.pk])}, follow=True)
    )
    assert "Stop 2 is back." in html
    assert row_of(stop) == before
    again = make.html(owner_client.post(undo, follow=True))
    assert "was put back already" in again


def test_nobody_else_puts_anything_back(client, study):
    removed = remove_stop(study.stops.get(label="2"))
    undo = reverse("studies:put-back", args=[study.pk, removed.pk])
    client.force_login(make.member(study, "viewer"))
    assert client.post(undo).status_code == 404
    client.force_login(make.user())
    assert client.post(undo).status_code == 404
    assert study.removed.exists()


def test_what_was_removed_a_day_ago_is_forgotten(study):
    old, fresh = remove_stop(study.stops.get(label="1")), remove_stop(study.stops.get(label="2"))
    a_day_ago = timezone.now() - datetime.timedelta(hours=25)
    Removed.objects.filter(pk=old.pk).update(at=a_day_ago)
    assert forget_removed() == 1
    assert study.removed.get() == fresh
