"""What a walk teaches, kept on the shelf, carried in its file, and predicted by on the plan."""

import pytest
from django.core.exceptions import ValidationError
from django.urls import reverse

from inchmark.plan.adapters.paths import surroundings_of
from inchmark.plan.models import Site
from inchmark.plan.services import place_fixed_end
from inchmark.read.services import keep_surrounding
from inchmark.shelf.models import Surrounding
from inchmark.shelf.services.shelf_files import shelf_of, take_in
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def kept(walked, reader):
    """A surrounding kept from the page of a walked study."""
    reader.post(reverse("read:keep-surrounding", args=[walked.pk]), {"name": "salt marsh"})
    return Surrounding.objects.get()


def test_the_page_says_what_the_walk_teaches_and_keeps_it(walked, reader, kept):
    page = reader.get(reverse("read:reading", args=[walked.pk]))
    assert make.missing(page, ["What this walk teaches", "beyond free space", "Keep as a"]) == []
    assert kept.exponent_low < kept.exponent < kept.exponent_high
    assert kept.offset_low_db < kept.offset_db < kept.offset_high_db
    assert kept.stops == walked.stops.count()
    shelf = reader.get(reverse("shelf:parts", args=[walked.pk, "surroundings"]))
    assert make.missing(shelf, ["salt marsh", "1 surrounding on the shelf"]) == []


@pytest.mark.parametrize("name", ["", "salt marsh"])
def test_an_empty_or_taken_name_is_refused_in_words(walked, kept, name):
    with pytest.raises(ValidationError, match="name"):
        keep_surrounding(walked, name)
    assert Surrounding.objects.count() == 1


def test_a_study_without_a_reading_teaches_nothing(study):
    with pytest.raises(ValidationError, match="does not tell a slope"):
        keep_surrounding(study, "somewhere")


def test_plan_predicts_by_it_with_its_own_spread(walked, kept):
    site = place_fixed_end(walked, Site(model="kept", surrounding=kept, shadowing_db=12.0))
    around = surroundings_of(site)
    assert (around.kept.exponent, around.shadowing_db) == (kept.exponent, kept.shadowing_db)


def test_the_model_needs_its_surrounding(walked):
    with pytest.raises(ValidationError, match="Choose the surrounding"):
        place_fixed_end(walked, Site(model="kept"))


def test_a_surrounding_in_use_stays_on_the_shelf(walked, reader, kept):
    place_fixed_end(walked, Site(model="kept", surrounding=kept))
    reader.post(reverse("shelf:part-remove", args=[walked.pk, "surroundings", kept.pk]))
    assert Surrounding.objects.filter(pk=kept.pk).exists()


def test_the_shelf_file_carries_it_to_another_study(walked, kept):
    other = make.study(by=make.owner(walked), title="Another marsh")
    take_in(other, shelf_of(walked).model_dump_json().encode())
    taken = other.surrounding_parts.get()
    same = ("name", "exponent", "offset_db", "at_m", "shadowing_db", "stops", "walked")
    assert [getattr(taken, name) for name in same] == [getattr(kept, name) for name in same]
