"""Where to stand next, on the map and beside the answer, where stops have coordinates."""

import pytest
from django.urls import reverse

from inchmark.core.geodesy import Place, destination
from inchmark.plan.adapters.next_stop import Wanted, place_for, place_words
from inchmark.plan.models import Site
from inchmark.plan.services import place_fixed_end, site_of
from inchmark.read.adapters import kept_reading, next_place_words
from inchmark.read.services import make_reading
from tests import make

pytestmark = pytest.mark.django_db


@pytest.fixture
def on_a_bearing(walked):
    """The walked study with coordinates, read anew."""
    fixed = Place(lat_deg=53.4, lon_deg=5.2)
    place_fixed_end(walked, Site(lat=53.4, lon=5.2))
    for stop in walked.stops.all():
        at = destination(fixed, 30.0, stop.distance_m)
        stop.lat, stop.lon = at.lat_deg, at.lon_deg
        stop.save()
    make_reading(walked.pk)
    return walked


def test_the_map_and_the_answer_name_a_place(on_a_bearing, reader):
    words = next_place_words(on_a_bearing, kept_reading(on_a_bearing))
    assert words.startswith("By the planned route that is ")
    study_map = reader.get(reverse("plan:map", args=[on_a_bearing.pk]))
    assert make.missing(study_map, ["Stand next at", words]) == []
    lat, lon, where, why = study_map.context["data"]["next"]
    assert f"{lat:.5f}, {lon:.5f}" in words
    assert where in words
    assert why.startswith("Stand next at")
    reading = reader.get(reverse("read:reading", args=[on_a_bearing.pk]))
    assert make.missing(reading, [words]) == []


def test_without_coordinates_the_distance_stands_alone(walked, reader):
    assert next_place_words(walked, kept_reading(walked)) == ""
    assert "By the planned route" not in make.html(
        reader.get(reverse("read:reading", args=[walked.pk]))
    )


def test_a_planned_stop_is_named_by_its_own_place(on_a_bearing):
    stops = list(on_a_bearing.stops.all())
    at = place_for(Wanted(stops[2].distance_m, stops[2].label, ""), site_of(on_a_bearing), stops)
    assert place_words(at) == (
        f"By the planned route that is at stop {stops[2].label}: {stops[2].lat:.5f}, {stops[2].lon:.5f}."
    )
