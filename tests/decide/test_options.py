"""Options on the page: filtered by figures, drawn, walked or only computed, nothing hidden."""

import pytest
from django.urls import reverse

from inchmark.decide.figures.options import COMPUTED, PARTLY, WALKED
from inchmark.decide.services.options import allowed_of, options_for
from inchmark.read.services import make_reading
from inchmark.shelf.models import Module, Setting
from inchmark.shelf.services.shelf_files import starter_shelf, take_in
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def shelved(walked):
    """The walked study with the starter shelf and rig A made of its parts."""
    take_in(walked, starter_shelf())
    module = Module.objects.get(study=walked, name="Dulse L8")
    for rig in walked.rigs.all():
        rig.module_part, rig.module = module, module.name
        rig.save()
    make_reading(walked.pk)
    return walked


def page(client, study, query=""):
    return make.html(client.get(reverse("decide:options", args=[study.pk]) + query))


def test_every_combination_stands_with_how_far_it_was_walked(reader, shelved):
    found = options_for(shelved, allowed_of(shelved), [])
    assert {one.basis for one in found} >= {WALKED, PARTLY, COMPUTED}
    assert any(one.stands_out for one in found)
    assert len(
        {(o.module, o.setting, o.antenna, o.fixed_antenna, o.battery) for o in found}
    ) == len(found)
    html = page(reader, shelved)
    assert f"{len(found)} options" in html
    assert "partly walked: not the" in html


def test_filters_are_direct_and_say_what_they_cannot_read(reader, shelved):
    every = len(options_for(shelved, allowed_of(shelved), []))
    html = page(reader, shelved, "?bound-air=200&allowed=1")
    told = int(html.split("<h1>")[1].split()[0])
    assert 0 < told < every
    html = page(reader, shelved, "?bound-life=three")
    assert "battery: “three” is no number" in html
    assert "No option passes" in page(reader, shelved, "?bound-served=99")


def test_what_is_left_out_is_in_no_option(reader, shelved):
    setting = Setting.objects.filter(study=shelved, module__name="Dulse L8").last()
    assert setting.setting in page(reader, shelved, "?sort=air")
    html = page(reader, shelved, f"?without=setting-{setting.pk}&x=air&y=share&sort=share")
    assert f'value="setting-{setting.pk}" checked' in html
    assert "Frames delivered, %" in html


def test_without_a_walk_the_page_says_what_it_takes(owner_client, study):
    assert "It takes a walk" in page(owner_client, study)
